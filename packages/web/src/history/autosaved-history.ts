import { createStore, type StoreApi } from 'zustand/vanilla';
import { createAutosave, type SaveStatus } from './autosave.ts';
import { dropValueDraft, type ValueDraft } from './value-drafts.ts';
import { NO_HISTORY, nextOf, titlesOf, travelled, withStep, type History } from './history.ts';

export const SAVING_WORDS: Record<SaveStatus, string> = {
  saved: 'saved',
  waiting: 'not saved yet',
  saving: 'saving',
  stale: 'changed elsewhere',
  failed: 'not saved',
  away: 'not saved: the server cannot be reached',
};

export interface AutosavedState<T> {
  readonly value: T;
  /** What undo and redo would do next, in words. */
  readonly undoes: string | undefined;
  readonly redoes: string | undefined;
  readonly saving: SaveStatus;
  /** Why it is not saved. */
  readonly message: string;
  /** What is not saved is kept in this browser. */
  readonly drafted: boolean;
}

/** A value with undo, saved by itself a moment after each change. */
export interface AutosavedHistory<T> extends StoreApi<AutosavedState<T>> {
  /** A change as one undo; those of one group in a row are one. */
  readonly become: (title: string, next: T, group?: string) => void;
  /** Another value while something is dragged, which becomes one undo by `commit`; undefined goes back to what was. */
  readonly preview: (next: T | undefined) => void;
  readonly commit: (title: string) => void;
  /** The value without what is being dragged. */
  readonly settled: () => T;
  /** What was stored elsewhere, as one undo: undo and redo save what they lead to. */
  readonly take: (title: string, next: T) => void;
  /** Another value that is no change: what is chosen, say. It is neither undone nor saved by itself. */
  readonly put: (next: T) => void;
  readonly undo: () => void;
  readonly redo: () => void;
  /** Whether something is being worked out that will change it: until then it does not count as saved. */
  readonly hold: (on: boolean) => void;
  /** Saves at once what is not saved; not over anything newer. */
  readonly flush: () => Promise<void>;
  /** Saves over what was changed elsewhere, whose version is known by now. */
  readonly saveOver: () => Promise<void>;
}

interface Step<T> {
  readonly title: string;
  /** To go back to. */
  readonly value: T;
}

/** Where a value is stored; see Autosaved. */
export interface Storing<T> {
  readonly write: (value: T) => Promise<unknown>;
  readonly recognise: (sent: readonly T[]) => Promise<T | undefined>;
  /** Whether two need not be saved apart. */
  readonly same?: (a: T, b: T) => boolean;
  /** Where a value is kept until it is stored; `keep` gives whether it is. */
  readonly draft?: { readonly keep: (value: T) => Promise<boolean>; readonly forget: () => void };
}

/**
 * Tries once more what is not saved; over something newer only where that was told, and `refresh` has learnt its
 * version.
 */
export async function saveAgain(
  kept: Pick<AutosavedHistory<unknown>, 'getState' | 'flush' | 'saveOver'>,
  refresh: () => Promise<unknown>,
): Promise<void> {
  if (kept.getState().saving !== 'stale') return kept.flush();
  await refresh();
  return kept.saveOver();
}

/** Takes a draft over, as one undo: it goes once it is kept by this opening, or stored. */
export function bringBack<T>(kept: AutosavedHistory<T>, draft: Pick<ValueDraft<unknown>, 'key'>, value: T): void {
  kept.become('restore unsaved changes', value);
  const stop = kept.subscribe(({ drafted, saving }) => {
    if (!drafted && saving !== 'saved') return;
    stop();
    void dropValueDraft(draft);
  });
}

const UNDO_LIMIT = 200;

export function createAutosavedHistory<T>(
  start: T,
  { write, recognise, same = Object.is, draft }: Storing<T>,
): AutosavedHistory<T> {
  const store = createStore<AutosavedState<T>>(() => ({
    value: start,
    undoes: undefined,
    redoes: undefined,
    saving: 'saved',
    message: '',
    drafted: false,
  }));
  let history: History<Step<T>> = NO_HISTORY;
  let before: { readonly value: T } | undefined;
  let lastGroup: string | undefined;
  let held = false;
  const settled = (): T => (before ? before.value : store.getState().value);
  const tell = (value: T): void => {
    store.setState({ value, ...titlesOf(history) });
  };
  const keep = (): void => {
    const value = settled();
    store.setState({ drafted: false });
    void draft?.keep(value).then((drafted) => {
      if (drafted && settled() === value && store.getState().saving !== 'saved') store.setState({ drafted });
    });
  };
  // What is being dragged is not stored, but neither does it keep from being stored what was there before.
  const saving = createAutosave(start, {
    current: settled,
    same,
    write,
    recognise,
    tell(status, message) {
      // A save was done, and there is more: it goes on from another version.
      const more = status === 'waiting' && store.getState().saving === 'saving';
      store.setState({ saving: status === 'saved' && held ? 'waiting' : status, message });
      if (more) keep();
      if (status !== 'saved') return;
      draft?.forget();
      store.setState({ drafted: false });
    },
  });
  /** It is another value now, which is to be stored. */
  const changed = (): void => {
    keep();
    saving.touch();
  };
  const travel = (direction: 'undo' | 'redo'): void => {
    const step = nextOf(history, direction);
    if (!step || before) return;
    history = travelled(history, direction, { title: step.title, value: store.getState().value });
    lastGroup = undefined;
    tell(step.value);
    changed();
  };
  const become = (title: string, next: T, group?: string): void => {
    const goesOn = group !== undefined && group === lastGroup && history.past.length > 0;
    history = goesOn ? { ...history, future: [] } : withStep(history, { title, value: settled() }, UNDO_LIMIT);
    lastGroup = group;
    before = undefined;
    tell(next);
    changed();
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
      }
    },
    commit(title) {
      if (before) become(title, store.getState().value);
    },
    take(title, next) {
      history = withStep(history, { title, value: settled() }, UNDO_LIMIT);
      lastGroup = undefined;
      before = undefined;
      tell(next);
      saving.adopt(next);
    },
    put(next) {
      lastGroup = undefined;
      store.setState({ value: next });
    },
    undo: () => {
      travel('undo');
    },
    redo: () => {
      travel('redo');
    },
    hold(on) {
      held = on;
      saving.touch();
    },
    flush: saving.flush,
    saveOver: saving.saveOver,
  };
}
