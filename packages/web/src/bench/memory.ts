/** What this browser was asked to keep under a key; nothing where it keeps nothing, or what it kept cannot be read. Its parts are to be looked at before use. */
export function recall<T extends object>(key: string): Partial<T> {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(key) ?? 'null');
    return typeof kept === 'object' && kept !== null ? kept : {};
  } catch {
    return {};
  }
}

/** Keeps a value in this browser; storage may be full or refused, and then it goes with the page. */
export function remember(key: string, value: object): void {
  try {
    localStorage.setItem(key, JSON.stringify(value));
  } catch {
    // As said above.
  }
}
