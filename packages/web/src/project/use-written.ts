import { useEffect, useRef, useState } from 'react';
import { sentence } from '../api/client.ts';
import { NotExported } from './fetch-file.ts';

/** A file that the server is asked to write. */
export type Written<T> =
  | { readonly state: 'loading'; readonly share: number }
  | { readonly state: 'ready'; readonly made: T }
  | { readonly state: 'refused'; readonly message: string; readonly missing: readonly string[] };

const LOADING = { state: 'loading', share: 0 } as const;

/** What comes of a question, which `of` tells from others; another question ends the one before. */
export function useWritten<T>(
  of: string,
  ask: (signal: AbortSignal, progress: (share: number) => void) => Promise<T>,
): Written<T> {
  const [known, setKnown] = useState<{ readonly of: string; readonly state: Written<T> }>();
  const asking = useRef(ask);
  useEffect(() => {
    asking.current = ask;
  });
  useEffect(() => {
    const abort = new AbortController();
    const tell = (state: Written<T>): void => {
      if (!abort.signal.aborted) setKnown({ of, state });
    };
    asking
      .current(abort.signal, (share) => {
        tell({ state: 'loading', share });
      })
      .then(
        (made) => {
          tell({ state: 'ready', made });
        },
        (error: unknown) => {
          const missing = error instanceof NotExported ? error.missing : [];
          tell({ state: 'refused', message: sentence(error), missing });
        },
      );
    return () => {
      abort.abort();
    };
  }, [of]);
  // What is known of another question is no answer to this one.
  return known?.of === of ? known.state : LOADING;
}
