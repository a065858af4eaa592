import { createStore, type StoreApi } from 'zustand/vanilla';
import { api, sentence, type Source, type SourceChange } from '../api/client.ts';
import { followedWhileHeard } from './followed.ts';
import { NO_HISTORY, nextOf, titlesOf, travelled, withStep, type History } from '../history/history.ts';

export interface SourcesState {
  readonly status: 'loading' | 'ready' | 'failed';
  readonly message: string;
  readonly sources: readonly Source[];
  /** What undo and redo would do next, in words. */
  readonly undoes: string | undefined;
  readonly redoes: string | undefined;
  /** Counts what was undone and redone: materials may have changed along with it. */
  readonly travels: number;
}

/** A change that can be taken back: each side leads to the state before or after it. */
export interface Past {
  readonly title: string;
  readonly undo: () => Promise<unknown>;
  readonly redo: () => Promise<unknown>;
}

/** What goes along with a change elsewhere, such as the lines of materials with a name. */
export interface Beside {
  readonly does: () => Promise<void>;
  readonly undoes: () => Promise<void>;
}

export interface SourcesStore extends StoreApi<SourcesState> {
  readonly projectId: string;
  readonly load: () => Promise<void>;
  readonly create: (change: SourceChange & { readonly name: string }, title?: string) => Promise<Source>;
  /** Gives a source another content, recipe or name; `beside` is done, undone and redone along with it. */
  readonly change: (source: Source, change: SourceChange, title: string, beside?: Beside) => Promise<Source>;
  readonly remove: (source: Source) => Promise<void>;
  /** Something else that was done in the project, such as to its meshes, is to be undone along with this. */
  readonly remember: (step: Past) => void;
  readonly undo: () => Promise<void>;
  readonly redo: () => Promise<void>;
}

const UNDO_LIMIT = 100;

/** The sources of a project as the server last told them, and the undo of what was done to them here. */
function createSourcesStore(projectId: string, start: readonly Source[] | undefined): SourcesStore {
  const store = createStore<SourcesState>(() => ({
    status: start ? 'ready' : 'loading',
    message: '',
    sources: start ?? [],
    undoes: undefined,
    redoes: undefined,
    travels: 0,
  }));
  let history: History<Past> = NO_HISTORY;
  const tell = (): void => {
    store.setState(titlesOf(history));
  };
  const load = async (): Promise<void> => {
    try {
      const sources = await api.sources(projectId);
      const before = store.getState();
      // The same list again changes nothing for those who look at it.
      if (before.status === 'ready' && JSON.stringify(before.sources) === JSON.stringify(sources)) return;
      store.setState({ status: 'ready', message: '', sources });
    } catch (error) {
      if (store.getState().status !== 'ready') store.setState({ status: 'failed', message: sentence(error) });
    }
  };
  /** The source of now with an id; its version guards the write. */
  const current = (id: string): Source => {
    const source = store.getState().sources.find((s) => s.id === id);
    if (!source) throw new Error('This source was deleted.');
    return source;
  };
  const done = async <T>(write: Promise<T>): Promise<T> => {
    try {
      return await write;
    } finally {
      await load();
    }
  };
  const remember = (step: Past): void => {
    history = withStep(history, step, UNDO_LIMIT);
    tell();
  };
  const travel = async (direction: 'undo' | 'redo'): Promise<void> => {
    const step = nextOf(history, direction);
    if (!step) return;
    await step[direction]();
    history = travelled(history, direction, step);
    tell();
    store.setState(({ travels }) => ({ travels: travels + 1 }));
  };
  /** A source that was deleted comes back under another id, so steps hold the place where the id of now stands. */
  const ids = new Map<string, string>();
  const idOf = (id: string): string => {
    const next = ids.get(id);
    return next === undefined ? id : idOf(next);
  };
  const bringBack = async (source: Source): Promise<void> => {
    const back = await done(
      api.createSource(projectId, { name: source.name, hash: source.hash, recipe: source.recipe }),
    );
    ids.set(idOf(source.id), back.id);
  };
  const takeAway = (source: Source): Promise<unknown> => done(api.deleteSource(current(idOf(source.id))));
  const write = (id: string, { name, hash, recipe }: Source): Promise<unknown> =>
    done(api.changeSource(current(idOf(id)), { name, hash, recipe }));

  return {
    ...followedWhileHeard(store, projectId, 'source', (s) => s.sources, load),
    projectId,
    load,
    async create(change, title = `import ${change.name}`) {
      const source = await done(api.createSource(projectId, change));
      remember({ title, undo: () => takeAway(source), redo: () => bringBack(source) });
      return source;
    },
    async change(source, change, title, beside) {
      const before = current(source.id);
      const after = await done(api.changeSource(before, change));
      const both = async (to: Source, act: (() => Promise<void>) | undefined): Promise<void> => {
        await write(after.id, to);
        await act?.();
      };
      remember({ title, undo: () => both(before, beside?.undoes), redo: () => both(after, beside?.does) });
      await beside?.does();
      return after;
    },
    async remove(source) {
      await takeAway(source);
      remember({ title: `delete ${source.name}`, undo: () => bringBack(source), redo: () => takeAway(source) });
    },
    remember,
    undo: () => travel('undo'),
    redo: () => travel('redo'),
  };
}

const stores = new Map<string, SourcesStore>();

/** The one store of a project's sources; a list that was just fetched may be handed in. */
export function sourcesOf(projectId: string, fetched?: readonly Source[]): SourcesStore {
  let store = stores.get(projectId);
  if (!store) stores.set(projectId, (store = createSourcesStore(projectId, fetched)));
  else if (fetched) store.setState({ status: 'ready', sources: fetched });
  return store;
}

/** A name like this one that is free: "moss.png", "moss 2.png", ... */
export function freeName(name: string, taken: readonly { readonly name: string }[]): string {
  const names = new Set(taken.map((s) => s.name));
  const [, stem = name, ending = ''] = /^(.*?)(\.[A-Za-z0-9]+)?$/.exec(name) ?? [];
  let free = name;
  for (let n = 2; names.has(free); n++) free = `${stem} ${String(n)}${ending}`;
  return free;
}

/** A name without its ending. */
export const stemOf = (name: string): string => name.replace(/\.[A-Za-z0-9]+$/, '');
