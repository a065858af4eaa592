import { createStore } from 'zustand/vanilla';

/** A worker ended without being asked to, and was or will be started again: what it does, and why it ended. */
export interface Trouble {
  readonly what: string;
  readonly why: 'died' | 'stuck';
}

/** The last one that nobody has put away. */
export const troubles = createStore<{ readonly last: Trouble | undefined }>(() => ({ last: undefined }));
