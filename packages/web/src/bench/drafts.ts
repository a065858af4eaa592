import { recall, remember } from './memory.ts';

/** Text that is typed but not saved yet, kept in the browser so that closing the page loses nothing. */
export interface Draft {
  readonly revision: number;
  readonly text: string;
}

const key = (id: string): string => `estela.draft.${id}`;

/** Where the browser keeps nothing, saving to the server goes on all the same. */
export function keepDraft(id: string, revision: number, text: string): void {
  remember(key(id), { revision, text });
}

export function forgetDraft(id: string): void {
  try {
    localStorage.removeItem(key(id));
  } catch {
    // Nothing is kept, so nothing stays.
  }
}

export function draftOf(id: string): Draft | undefined {
  const { text, revision } = recall<Draft>(key(id));
  return typeof text === 'string' && typeof revision === 'number' ? { text, revision } : undefined;
}
