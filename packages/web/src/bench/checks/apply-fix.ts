import type { TextEdit } from '@estela/core';
import type { Session } from '../session.ts';

/**
 * Applies a fix of what is shown, as one undo. What was found in an older text than that of now is about to be found
 * anew.
 */
export function applyFix(
  { document, debounced }: Pick<Session, 'document' | 'debounced'>,
  edits: readonly TextEdit[],
): void {
  if (debounced.getState().text === document.getState().text) document.edit(edits);
}

/** The same of what the examiner found: only while the text is that in which it did. */
export function applyFound(
  session: Pick<Session, 'document' | 'debounced' | 'checks'>,
  edits: readonly TextEdit[],
): void {
  if (session.checks.getState().foundIn === session.document.getState().text) applyFix(session, edits);
}
