import { Button } from '@mui/material';
import { lazy, Suspense, useState, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { dropDraft, typedAt, type Draft } from '../history/drafts.ts';
import { NoticeLine } from '../ui/NoticeLine.tsx';
import { useSession } from './session.ts';

const MergeDialog = lazy(async () => ({ default: (await import('./revisions/MergeDialog.tsx')).MergeDialog }));

/** Unsaved texts of this material that other tabs left behind, one after the other. */
export function OtherDrafts(): ReactElement | null {
  const { drafts } = useSession();
  const [draft, ...rest] = useStore(drafts, (s) => s.others);
  const [comparing, setComparing] = useState<Draft>();
  if (!draft) return null;
  const drop = (): void => {
    dropDraft(draft);
    drafts.setState({ others: rest });
  };
  return (
    <NoticeLine>
      Another unsaved version of this material, typed {typedAt(draft)}, is kept in this browser.
      <Button
        onClick={() => {
          setComparing(draft);
        }}
      >
        Compare and merge
      </Button>
      <Button onClick={drop}>Discard it</Button>
      {comparing && (
        <Suspense>
          <MergeDialog
            draft={comparing}
            merged={drop}
            close={() => {
              setComparing(undefined);
            }}
          />
        </Suspense>
      )}
    </NoticeLine>
  );
}
