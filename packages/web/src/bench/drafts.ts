/** Text that is typed but not saved yet, kept in the browser so that closing the page loses nothing. */
export interface Draft {
  readonly revision: number;
  readonly text: string;
}

const key = (id: string): string => `estela.draft.${id}`;

export function keepDraft(id: string, revision: number, text: string): void {
  try {
    localStorage.setItem(key(id), JSON.stringify({ revision, text }));
  } catch {
    // Storage may be full or refused; saving to the server goes on all the same.
  }
}

export function forgetDraft(id: string): void {
  try {
    localStorage.removeItem(key(id));
  } catch {
    // As above.
  }
}

export function draftOf(id: string): Draft | undefined {
  try {
    const value: unknown = JSON.parse(localStorage.getItem(key(id)) ?? 'null');
    if (typeof value !== 'object' || value === null || !('text' in value) || !('revision' in value)) return undefined;
    return typeof value.text === 'string' && typeof value.revision === 'number' ? { text: value.text, revision: value.revision } : undefined;
  } catch {
    return undefined;
  }
}
