/** What can be undone and redone, the newest last. It is one value, so that it can stand in a store. */
export interface History<Step> {
  readonly past: readonly Step[];
  readonly future: readonly Step[];
}
export const NO_HISTORY: History<never> = { past: [], future: [] };

/** With another step, of which so many are kept; there is nothing to redo after it. */
export const withStep = <Step>({ past }: History<Step>, step: Step, limit: number): History<Step> => ({
  past: [...past, step].slice(-limit),
  future: [],
});

/** With another step in place of the last: both are one undo. */
export const withLast = <Step>({ past, future }: History<Step>, step: Step): History<Step> => ({
  past: [...past.slice(0, -1), step],
  future,
});

/** The step that undo or redo does next. */
export const nextOf = <Step>({ past, future }: History<Step>, direction: 'undo' | 'redo'): Step | undefined =>
  (direction === 'undo' ? past : future).at(-1);

/** Once that step is done; `back` is the one that leads back from there. */
export function travelled<Step>(
  { past, future }: History<Step>,
  direction: 'undo' | 'redo',
  back: Step,
): History<Step> {
  return direction === 'undo'
    ? { past: past.slice(0, -1), future: [...future, back] }
    : { past: [...past, back], future: future.slice(0, -1) };
}

/** What undo and redo would do next, in words. */
export const titlesOf = (
  history: History<{ readonly title: string }>,
): { readonly undoes: string | undefined; readonly redoes: string | undefined } => ({
  undoes: nextOf(history, 'undo')?.title,
  redoes: nextOf(history, 'redo')?.title,
});
