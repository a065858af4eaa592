import { Button } from '@mui/material';
import type { ReactElement } from 'react';
import { useStore } from 'zustand';
import { NoticeLine } from '../ui/NoticeLine.tsx';
import { troubles } from '../workers/troubles.ts';

/** Says that a worker ended by itself: what it was at is missing until it is asked again. */
export function WorkerTrouble(): ReactElement | null {
  const trouble = useStore(troubles, (s) => s.last);
  if (!trouble) return null;
  const { what, why } = trouble;
  return (
    <NoticeLine trouble>
      {why === 'stuck'
        ? `The worker for ${what} did not respond for a minute and was stopped.`
        : `The worker for ${what} stopped, probably because it ran out of memory.`}{' '}
      The next change restarts it.
      <Button
        onClick={() => {
          troubles.setState({ last: undefined });
        }}
      >
        Close
      </Button>
    </NoticeLine>
  );
}
