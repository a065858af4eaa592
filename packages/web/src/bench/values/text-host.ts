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

/**
 * `seen` is the material as it was drawn: an edit made of an older text than that of now would land in the wrong place,
 * and is left out.
 */
export const hostOf = (document: DocumentStore, seen?: Program): TextHost => ({
  program: () => document.getState().derived.program,
  edit: (edits) => {
    if (!seen || seen.tree.text === document.getState().text) document.edit(edits);
  },
  drag(edits) {
    if (!document.getState().dragging) document.setDragging(true);
    document.edit(edits, 'drag');
  },
  done() {
    if (document.getState().dragging) document.setDragging(false);
  },
});
