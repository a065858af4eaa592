import { createStore, del, get, keys, set } from 'idb-keyval';
import { holdKey, openKeys, ownKey } from './open-keys.ts';

/**
 * A value that was changed but not saved, kept in the browser so that closing the page loses nothing. Each opening of a
 * thing keeps one of its own.
 */
export interface ValueDraft<T> {
  readonly key: string;
  readonly value: T;
  /** The version that it was changed from. */
  readonly version: number;
  /** When it was changed, in milliseconds since 1970. */
  readonly at: number;
}

/** The draft of one opening. */
export interface ValueKeeper<T> {
  /** Keeps a value in place of the one before; gives whether the browser could. */
  readonly keep: (value: T, version: number) => Promise<boolean>;
  /** Removes it: the value is saved, or not wanted. */
  readonly forget: () => Promise<void>;
  /** The page lets go of it: what is there still is for the next opening to find. */
  readonly close: () => void;
}

const PREFIX = 'estela.value-draft.';
const attempt = async <T>(act: () => Promise<T>, otherwise: T): Promise<T> => {
  try {
    return await act();
  } catch {
    return otherwise;
  }
};
let kept: ReturnType<typeof createStore> | undefined;
const store = (): ReturnType<typeof createStore> => (kept ??= createStore('estela', 'drafts'));

/** The newest draft of a thing that no open page is changing; undefined where there is none, or none can be read. */
export async function findValueDraft<T>(thing: string): Promise<ValueDraft<T> | undefined> {
  return attempt(async () => {
    const open = await openKeys();
    const all = (await keys<string>(store())).filter((k) => k.startsWith(`${PREFIX}${thing}.`) && !open.has(k));
    const drafts = await Promise.all(
      all.map(async (key) => {
        const draft = await get<Omit<ValueDraft<T>, 'key'>>(key, store());
        // One that was saved since it was listed is gone.
        return draft ? [{ ...draft, key }] : [];
      }),
    );
    return drafts.flat().sort((a, b) => b.at - a.at)[0];
  }, undefined);
}

/** Removes a draft: what was in it is kept by another, or stored. */
export const dropValueDraft = ({ key }: Pick<ValueDraft<unknown>, 'key'>): Promise<void> =>
  attempt(() => del(key, store()), undefined);

export function keepValue<T>(thing: string): ValueKeeper<T> {
  const key = ownKey(`${PREFIX}${thing}.`);
  const close = holdKey(key);
  // In order, so that what was forgotten does not come back.
  let chain: Promise<unknown> = Promise.resolve();
  const after = <R>(act: () => Promise<R>): Promise<R> => {
    const done = chain.then(act);
    chain = done;
    return done;
  };
  let newest = 0;
  return {
    keep(value, version) {
      const mine = ++newest;
      const draft: Omit<ValueDraft<T>, 'key'> = { value, version, at: Date.now() };
      return after(async () => {
        // One that is old already need not be written.
        if (mine !== newest) return false;
        return attempt(async () => {
          await set(key, draft, store());
          return true;
        }, false);
      });
    },
    forget() {
      newest++;
      return after(() => attempt(() => del(key, store()), undefined));
    },
    close,
  };
}
