import type { TextEdit } from '@estela/core';
import type { Session } from '../session.ts';

/** Applies a mend of what is shown, as one undo. What was found in an older text than that of now is about to be found anew. */
export function applyMend({ document, rested }: Pick<Session, 'document' | 'rested'>, edits: readonly TextEdit[]): void {
  if (rested.getState().text === document.getState().text) document.edit(edits);
}
