import { Box, Button } from '@mui/material';
import { useEffect, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { SAVING_WORDS, type Kept } from './kept.ts';
import { tokens } from './tokens.ts';
import { UndoButtons } from './UndoButtons.tsx';

/** Whether it is saved; and, where it is not, ways out. */
export function SavingWords<T>({
  kept,
  refresh,
  reopen,
}: {
  readonly kept: Kept<T>;
  /** Learns the newest version, to write over it. */
  readonly refresh: () => Promise<unknown>;
  readonly reopen: () => void;
}): ReactElement {
  const { saving, message } = useStore(kept);
  const wrong = saving === 'stale' || saving === 'failed';
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
            void refresh().then(() => kept.flush());
          }}
        >
          {saving === 'stale' ? 'Save over it' : 'Try again'}
        </Button>
      )}
      {saving === 'stale' && <Button onClick={reopen}>Take theirs</Button>}
    </>
  );
}

/** Undo and redo as buttons and keys; and what is not saved is sent when the page is left. */
export function UndoRedo<T>({ kept }: { readonly kept: Kept<T> }): ReactElement {
  const { undoes, redoes } = useStore(kept);
  useEffect(() => {
    const leave = (event: BeforeUnloadEvent): void => {
      if (kept.getState().saving === 'saved') return;
      void kept.flush();
      event.preventDefault();
    };
    window.addEventListener('beforeunload', leave);
    return () => {
      window.removeEventListener('beforeunload', leave);
      void kept.flush();
    };
  }, [kept]);
  return <UndoButtons undoes={undoes} redoes={redoes} undo={kept.undo} redo={kept.redo} />;
}
