import { createStore, type StoreApi } from 'zustand/vanilla';
import { ApiError, sentence } from '../api/client.ts';

export type Saving = 'saved' | 'waiting' | 'saving' | 'stale' | 'failed';
export const SAVING_WORDS: Record<Saving, string> = {
  saved: 'saved',
  waiting: 'not saved yet',
  saving: 'saving',
  stale: 'changed elsewhere',
  failed: 'not saved',
};

export interface KeptState<T> {
  readonly value: T;
  /** What undo and redo would do next, in words. */
  readonly undoes: string | undefined;
  readonly redoes: string | undefined;
  readonly saving: Saving;
  /** Why it is not saved. */
  readonly message: string;
}

/** A value with undo, saved by itself a moment after each change. */
export interface Kept<T> extends StoreApi<KeptState<T>> {
  /** A change as one undo; those of one group in a row are one. */
  readonly become: (title: string, next: T, group?: string) => void;
  /** Another value while something is dragged, which becomes one undo by `commit`; undefined goes back to what was. */
  readonly preview: (next: T | undefined) => void;
  readonly commit: (title: string) => void;
  /** The value without what is being dragged. */
  readonly settled: () => T;
  /** Another value that is no change: what is chosen, say. It is neither undone nor saved by itself. */
  readonly put: (next: T) => void;
  readonly undo: () => void;
  readonly redo: () => void;
  /** Whether something is being worked out that will change it: until then it does not count as saved. */
  readonly hold: (on: boolean) => void;
  /** Saves at once what is not saved. */
  readonly flush: () => Promise<void>;
}

interface Past<T> {
  readonly title: string;
  readonly value: T;
}

/** Milliseconds that a change rests before it is saved. */
const PAUSE = 800;
const UNDO_LIMIT = 200;

/** `write` sends a value; where that finds a newer version it is told, and nothing is written over. `same` says whether two need not be saved apart. */
export function createKept<T>(start: T, write: (value: T) => Promise<unknown>, same: (a: T, b: T) => boolean = Object.is): Kept<T> {
  const store = createStore<KeptState<T>>(() => ({ value: start, undoes: undefined, redoes: undefined, saving: 'saved', message: '' }));
  let past: Past<T>[] = [];
  let future: Past<T>[] = [];
  let saved = start;
  let before: { readonly value: T } | undefined;
  let lastGroup: string | undefined;
  let timer: ReturnType<typeof setTimeout> | undefined;
  let held = false;
  const rest = (): void => {
    store.setState({ saving: held ? 'waiting' : 'saved', message: '' });
  };
  const settled = (): T => (before ? before.value : store.getState().value);
  const tell = (value: T): void => {
    store.setState({ value, undoes: past.at(-1)?.title, redoes: future.at(-1)?.title });
  };
  const save = async (): Promise<void> => {
    clearTimeout(timer);
    const { value } = store.getState();
    if (before) return;
    if (same(value, saved)) {
      rest();
      return;
    }
    store.setState({ saving: 'saving' });
    try {
      await write(value);
      saved = value;
      rest();
      if (!same(store.getState().value, value)) plan();
    } catch (error) {
      store.setState({ saving: error instanceof ApiError && error.status === 412 ? 'stale' : 'failed', message: sentence(error) });
    }
  };
  let writing = Promise.resolve();
  const flush = (): Promise<void> => (writing = writing.then(save));
  const plan = (): void => {
    clearTimeout(timer);
    const { saving } = store.getState();
    // What was changed elsewhere waits for an answer.
    if (saving === 'stale') return;
    if (saving !== 'saving') store.setState({ saving: 'waiting' });
    timer = setTimeout(() => void flush(), PAUSE);
  };
  const travel = (back: boolean): void => {
    const step = (back ? past : future).at(-1);
    if (!step || before) return;
    const here = { title: step.title, value: store.getState().value };
    if (back) [past, future] = [past.slice(0, -1), [...future, here]];
    else [past, future] = [[...past, here], future.slice(0, -1)];
    lastGroup = undefined;
    tell(step.value);
    plan();
  };
  const become = (title: string, next: T, group?: string): void => {
    if (group === undefined || group !== lastGroup || past.length === 0) past = [...past, { title, value: settled() }].slice(-UNDO_LIMIT);
    future = [];
    lastGroup = group;
    before = undefined;
    tell(next);
    plan();
  };
  return {
    ...store,
    settled,
    become,
    preview(next) {
      if (next !== undefined) {
        before ??= { value: store.getState().value };
        store.setState({ value: next });
      } else if (before) {
        store.setState({ value: before.value });
        before = undefined;
        // The time to save may have come and gone meanwhile.
        if (store.getState().saving === 'waiting') plan();
      }
    },
    commit(title) {
      if (before) become(title, store.getState().value);
    },
    put(next) {
      lastGroup = undefined;
      store.setState({ value: next });
    },
    undo: () => {
      travel(true);
    },
    redo: () => {
      travel(false);
    },
    hold(on) {
      held = on;
      const { saving } = store.getState();
      if ((saving === 'saved' || saving === 'waiting') && same(settled(), saved)) rest();
    },
    flush,
  };
}
