import { Box, Button, IconButton, Tooltip } from '@mui/material';
import { useEffect, type ReactElement } from 'react';
import { useStore } from 'zustand';
import { RedoIcon, UndoIcon } from './icons.tsx';
import { SAVING_WORDS, type Kept } from './kept.ts';
import { tokens } from './tokens.ts';

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
    const keyed = (event: KeyboardEvent): void => {
      const { target } = event;
      if (!(event.ctrlKey || event.metaKey) || (target instanceof HTMLElement && target.matches('input, textarea'))) return;
      const key = event.key.toLowerCase();
      if (key !== 'z' && key !== 'y') return;
      event.preventDefault();
      (key === 'y' || event.shiftKey ? kept.redo : kept.undo)();
    };
    const leave = (event: BeforeUnloadEvent): void => {
      if (kept.getState().saving === 'saved') return;
      void kept.flush();
      event.preventDefault();
    };
    window.addEventListener('keydown', keyed);
    window.addEventListener('beforeunload', leave);
    return () => {
      window.removeEventListener('keydown', keyed);
      window.removeEventListener('beforeunload', leave);
      void kept.flush();
    };
  }, [kept]);
  const button = (label: string, what: string | undefined, act: () => void, icon: ReactElement): ReactElement => (
    <Tooltip title={what === undefined ? `Nothing to ${label.toLowerCase()}` : `${label}: ${what}`}>
      <span>
        <IconButton aria-label={what === undefined ? label : `${label}: ${what}`} disabled={what === undefined} onClick={act}>
          {icon}
        </IconButton>
      </span>
    </Tooltip>
  );
  return (
    <>
      {button('Undo', undoes, kept.undo, <UndoIcon />)}
      {button('Redo', redoes, kept.redo, <RedoIcon />)}
    </>
  );
}
