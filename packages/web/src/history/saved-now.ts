import type { StoreApi } from 'zustand/vanilla';

/** Waits until what is changed is saved. Throws with a sentence where it is not then. */
export async function savedNow(
  kept: Pick<StoreApi<{ readonly saving: string }>, 'getState'>,
  flush: () => Promise<void>,
): Promise<void> {
  await flush();
  if (kept.getState().saving !== 'saved') throw new Error('Your last changes are not saved yet. Save them first.');
}
