/** Keys of what is open in this page. */
const own = new Set<string>();

const hasLocks = (): boolean => typeof navigator !== 'undefined' && 'locks' in navigator;

/** Says to other pages that a key's page is open, until the function it gives is called. */
export function holdKey(key: string): () => void {
  own.add(key);
  let release = (): void => undefined;
  const open = new Promise<void>((resolve) => (release = resolve));
  if (hasLocks()) navigator.locks.request(key, () => open).catch(() => undefined);
  return () => {
    own.delete(key);
    release();
  };
}

/** Keys whose pages are open, in this tab or another. Where the browser knows no locks, only this tab's are known. */
export async function openKeys(): Promise<ReadonlySet<string>> {
  const open = new Set(own);
  try {
    // There are locks on secure pages only.
    const held = hasLocks() ? await navigator.locks.query() : {};
    for (const { name = '' } of held.held ?? []) open.add(name);
  } catch {
    // A page that may keep nothing may ask for no locks either.
  }
  return open;
}

/** A key of one opening alone: two tabs never write, or remove, each other's. */
export const ownKey = (prefix: string): string =>
  `${prefix}${[...crypto.getRandomValues(new Uint8Array(8))].map((b) => b.toString(16).padStart(2, '0')).join('')}`;
