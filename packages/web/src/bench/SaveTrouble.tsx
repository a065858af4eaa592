import { Button } from '@mui/material';
import { lazy, Suspense, useState, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { NoticeLine } from '../ui/NoticeLine.tsx';
import { useSession } from './session.ts';

const MergeDialog = lazy(async () => ({ default: (await import('./revisions/MergeDialog.tsx')).MergeDialog }));

const NOT_KEPT = 'This browser cannot store drafts: keep this page open until the material is saved.';

/** Why the text is not saved, and what can be done about it. */
export function SaveTrouble(): ReactElement | null {
  const { saver } = useSession();
  const [merging, setMerging] = useState(false);
  const { status, message, kept, gone } = useStore(saver);
  if (status === 'stale')
    return (
      <NoticeLine trouble>
        Not saved: this material was saved elsewhere. Your text stays here.
        <Button
          variant="outlined"
          onClick={() => {
            setMerging(true);
          }}
        >
          Compare and merge
        </Button>
        <Button variant="outlined" onClick={() => void saver.saveOver()}>
          Overwrite with mine
        </Button>
        <Button variant="outlined" onClick={() => void saver.takeTheirs()}>
          Load the other version
        </Button>
        {merging && (
          <Suspense>
            <MergeDialog
              close={() => {
                setMerging(false);
              }}
            />
          </Suspense>
        )}
      </NoticeLine>
    );
  if (status === 'away')
    return (
      <NoticeLine trouble>
        The server cannot be reached.{' '}
        {kept ? 'Keep working: your text is kept in this browser and saved when the server is back.' : NOT_KEPT}
        <Button variant="outlined" onClick={() => void saver.flush()}>
          Try now
        </Button>
      </NoticeLine>
    );
  if (status !== 'failed') return null;
  return (
    <NoticeLine trouble>
      Not saved: {gone ? 'this material was deleted.' : message}{' '}
      {kept ? 'Your text is kept in this browser.' : NOT_KEPT}
      {gone && (
        <Button variant="outlined" onClick={() => void saver.restore()}>
          Restore the material
        </Button>
      )}
      <Button variant="outlined" onClick={() => void saver.flush()}>
        Try again
      </Button>
    </NoticeLine>
  );
}
