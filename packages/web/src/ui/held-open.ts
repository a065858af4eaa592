import type { StoreApi } from 'zustand/vanilla';

/** Something that saves itself, and may be left before it could. */
interface Unsaved<T> {
  readonly thing: T;
  readonly store: Pick<StoreApi<unknown>, 'subscribe'>;
  readonly isSaved: () => boolean;
  /** Whether closing the page loses it. */
  readonly isLost: () => boolean;
  readonly flush: () => Promise<void>;
  /** Lets go of it. */
  readonly end: () => void;
}

const held = new Map<string, Unsaved<unknown>>();

/** What was left before it could be saved; it is found again as it was, and goes on trying meanwhile. */
export const stillOpen = (key: string): unknown => held.get(key)?.thing;

/** Opening it again starts over with what is stored. */
export const letGo = (key: string): void => {
  held.get(key)?.end();
  held.delete(key);
};

/** Keeps a thing while it is shown, and after that until it is saved. Gives the function that leaves it. */
export function holdOpen<T>(key: string, unsaved: Unsaved<T>): () => void {
  held.set(key, unsaved);
  return () => {
    const finish = (): void => {
      // It is shown again, or nobody wants it any more.
      if (held.get(key) !== unsaved) stop();
      else if (unsaved.isSaved()) {
        stop();
        letGo(key);
      }
    };
    const stop = unsaved.store.subscribe(finish);
    void unsaved.flush().then(finish);
  };
}

if (typeof window !== 'undefined')
  window.addEventListener('beforeunload', (event) => {
    for (const { isSaved, isLost, flush } of held.values()) {
      if (isSaved()) continue;
      void flush();
      if (isLost()) event.preventDefault();
    }
  });
