import { IconButton, Tooltip } from '@mui/material';
import type { ReactElement } from 'react';
import { RedoIcon, UndoIcon } from './icons.tsx';
import { undoKeys, useKeys } from './keys.ts';

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
  useKeys([{ group: 'Everything', keys: undoKeys(undo, redo, 'the last change') }]);
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
