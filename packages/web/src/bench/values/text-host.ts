import type { Program, TextEdit } from '@estela/core';
import type { DocumentStore } from '../document-store.ts';

/** A text that controls write into: the material's, or that of an example. */
export interface TextHost {
  /** Of now: many moves may come between two drawings of a control. */
  readonly program: () => Program;
  readonly edit: (edits: readonly TextEdit[]) => void;
  /** As `edit`, while a hand is on a control: all of it is one undo, until `done`. */
  readonly drag: (edits: readonly TextEdit[]) => void;
  readonly done: () => void;
}

export const hostOf = (document: DocumentStore): TextHost => ({
  program: () => document.getState().derived.program,
  edit: (edits) => {
    document.edit(edits);
  },
  drag(edits) {
    if (!document.getState().dragging) document.setDragging(true);
    document.edit(edits, 'drag');
  },
  done() {
    if (document.getState().dragging) document.setDragging(false);
  },
});
