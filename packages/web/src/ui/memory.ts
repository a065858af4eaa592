/** What this browser keeps by key; a browser may refuse to keep anything, even to say so. */
export interface Memory {
  readonly getItem: (key: string) => string | null;
  /** Whether it is kept: storage may be full or denied. */
  readonly setItem: (key: string, value: string) => boolean;
  readonly removeItem: (key: string) => void;
  readonly keys: () => string[];
}

const attempt = <T>(act: (storage: Storage) => T, otherwise: T): T => {
  try {
    // Where storage is denied, asking for it throws already.
    return act(localStorage);
  } catch {
    return otherwise;
  }
};

export const memory: Memory = {
  getItem: (key) => attempt((storage) => storage.getItem(key), null),
  setItem: (key, value) =>
    attempt((storage) => {
      storage.setItem(key, value);
      return true;
    }, false),
  removeItem(key) {
    attempt((storage) => {
      storage.removeItem(key);
    }, undefined);
  },
  keys: () =>
    attempt(
      (storage) => Array.from({ length: storage.length }, (_, i) => storage.key(i)).filter((key) => key !== null),
      [],
    ),
};

/**
 * An object that was kept under a key; empty where there is none, or it cannot be read. Its parts are to be looked at
 * before use.
 */
export function recall<T extends object>(key: string): Partial<T> {
  try {
    const kept: unknown = JSON.parse(memory.getItem(key) ?? 'null');
    return typeof kept === 'object' && kept !== null ? kept : {};
  } catch {
    return {};
  }
}

/** Keeps an object; says whether it could. */
export const remember = (key: string, value: object): boolean => memory.setItem(key, JSON.stringify(value));
