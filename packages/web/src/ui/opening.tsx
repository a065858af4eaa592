import { Button } from '@mui/material';
import { useEffect, useEffectEvent, useState, type ReactElement } from 'react';
import { sentence } from '../api/client.ts';
import { NotFoundPage, Notice, TopBar } from './Page.tsx';

export interface Opening<T> {
  readonly opened: T | undefined;
  /** What is shown while it is not opened. */
  readonly page: ReactElement;
  /** Opens it anew. */
  readonly again: () => void;
}

/**
 * Fetches what a view shows, once for each key; `open` gives undefined where there is no such thing. `what` is its name
 * in sentences, such as "set".
 */
export function useOpening<T>(what: string, key: string, open: () => Promise<T | undefined>): Opening<T> {
  const [found, setFound] = useState<{ readonly opened?: T | undefined; readonly problem?: string }>();
  const [round, setRound] = useState(0);
  const begin = useEffectEvent(open);
  useEffect(() => {
    let gone = false;
    begin().then(
      (opened) => {
        if (!gone) setFound({ opened });
      },
      (error: unknown) => {
        if (!gone) setFound({ problem: sentence(error) });
      },
    );
    return () => {
      gone = true;
    };
  }, [key, round]);
  const again = (): void => {
    setFound(undefined);
    setRound(round + 1);
  };
  const notice =
    found?.problem === undefined ? (
      <Notice busy title={`Opening the ${what}`} />
    ) : (
      <Notice
        alert
        title={`The ${what} cannot be opened`}
        detail={found.problem}
        action={
          <Button variant="outlined" onClick={again}>
            Try again
          </Button>
        }
      />
    );
  const page =
    found && found.problem === undefined ? (
      <NotFoundPage />
    ) : (
      <>
        <TopBar />
        {notice}
      </>
    );
  return { opened: found?.opened, page, again };
}
