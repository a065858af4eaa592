import { IconButton, Tooltip } from '@mui/material';
import { useEffect, useEffectEvent, type ReactElement } from 'react';
import { RedoIcon, UndoIcon } from './icons.tsx';

/**
 * Undo and redo as buttons, and as keys except where a text is being written. `undoes` and `redoes` are what they would
 * do, in words; undefined for nothing.
 */
export function UndoButtons({
  undoes,
  redoes,
  undo,
  redo,
}: {
  readonly undoes: string | undefined;
  readonly redoes: string | undefined;
  readonly undo: () => void;
  readonly redo: () => void;
}): ReactElement {
  const keyed = useEffectEvent((event: KeyboardEvent): void => {
    const { target } = event;
    if (!(event.ctrlKey || event.metaKey) || (target instanceof HTMLElement && target.matches(WRITTEN_IN))) return;
    const key = event.key.toLowerCase();
    if (key !== 'z' && key !== 'y') return;
    event.preventDefault();
    (key === 'y' || event.shiftKey ? redo : undo)();
  });
  useEffect(() => {
    window.addEventListener('keydown', keyed);
    return () => {
      window.removeEventListener('keydown', keyed);
    };
  }, []);
  const button = (label: string, what: string | undefined, act: () => void, icon: ReactElement): ReactElement => (
    <Tooltip title={what === undefined ? `Nothing to ${label.toLowerCase()}` : `${label}: ${what}`}>
      <span>
        <IconButton
          aria-label={what === undefined ? label : `${label}: ${what}`}
          disabled={what === undefined}
          onClick={act}
        >
          {icon}
        </IconButton>
      </span>
    </Tooltip>
  );
  return (
    <>
      {button('Undo', undoes, undo, <UndoIcon />)}
      {button('Redo', redoes, redo, <RedoIcon />)}
    </>
  );
}

/** Fields with an undo of their own; sliders and boxes to tick have none. */
const WRITTEN_IN = 'input:not([type=range], [type=checkbox], [type=radio]), textarea, [contenteditable=true]';
