import { Box, Button } from '@mui/material';
import { useEffect, useState, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { sentence } from '../api/client.ts';
import { isTrouble } from './autosave.ts';
import { holdOpen } from '../ui/held-open.ts';
import { SAVING_WORDS, saveAgain, type AutosavedHistory } from './autosaved-history.ts';
import { tokens } from '../ui/tokens.ts';
import { NoticeLine } from '../ui/NoticeLine.tsx';
import { UndoButtons } from '../ui/UndoButtons.tsx';

/** Whether it is saved; and, where it is not, ways out. */
export function SavingWords<T>({
  kept,
  refresh,
  reopen,
}: {
  readonly kept: AutosavedHistory<T>;
  /** Learns the newest version, to write over it. */
  readonly refresh: () => Promise<unknown>;
  readonly reopen: () => void;
}): ReactElement {
  const { saving, message } = useStore(kept);
  const [problem, setProblem] = useState('');
  const wrong = isTrouble(saving);
  return (
    <>
      <Box role="status" title={message} sx={{ color: wrong ? tokens.coral : 'text.secondary', whiteSpace: 'nowrap' }}>
        {SAVING_WORDS[saving]}
      </Box>
      {wrong && (
        <Button
          variant="outlined"
          title={message}
          onClick={() => {
            setProblem('');
            saveAgain(kept, refresh).catch((error: unknown) => {
              setProblem(sentence(error));
            });
          }}
        >
          {saving === 'stale' ? 'Overwrite' : 'Try now'}
        </Button>
      )}
      {saving === 'stale' && (
        <>
          <Button component="a" href={location.href} target="_blank" title="Open the saved version in another tab">
            See theirs
          </Button>
          <Button onClick={reopen}>Load theirs</Button>
        </>
      )}
      {wrong && problem !== '' && (
        <Box role="alert" sx={{ color: tokens.coral }}>
          {problem}
        </Box>
      )}
    </>
  );
}

/** Says that a draft was brought back, until that is put away. */
export function BroughtBack(): ReactElement | null {
  const [open, setOpen] = useState(true);
  if (!open) return null;
  return (
    <NoticeLine>
      Your unsaved changes were restored. Undo returns to the saved version.
      <Button
        onClick={() => {
          setOpen(false);
        }}
      >
        Close
      </Button>
    </NoticeLine>
  );
}

/** Undo and redo as buttons and keys. */
export function UndoRedo<T>({ kept }: { readonly kept: AutosavedHistory<T> }): ReactElement {
  const { undoes, redoes } = useStore(kept);
  return <UndoButtons undoes={undoes} redoes={redoes} undo={kept.undo} redo={kept.redo} />;
}

/** Keeps what is shown until it is saved, also after it was left; `end` lets go of it. */
export function useHeldOpen<S>(
  key: string,
  thing:
    { readonly kept: AutosavedHistory<S>; readonly flush: () => Promise<void>; readonly end: () => void } | undefined,
): void {
  useEffect(() => {
    if (!thing) return undefined;
    const { kept, flush, end } = thing;
    const isSaved = (): boolean => kept.getState().saving === 'saved';
    return holdOpen(key, { thing, store: kept, isSaved, isLost: () => !kept.getState().drafted, flush, end });
  }, [key, thing]);
}
