import { followedWhileHeard } from './followed.ts';
import { createStore, type StoreApi } from 'zustand/vanilla';
import { api, sentence, type SetBody, type StoredSet } from '../api/client.ts';

export interface SetsState {
  readonly status: 'loading' | 'ready' | 'failed';
  readonly message: string;
  readonly sets: readonly StoredSet[];
  /** What was deleted last, and can be had back. */
  readonly deleted: StoredSet | undefined;
}

/** The sets of a project as the server last told them. */
export interface SetsStore extends StoreApi<SetsState> {
  readonly load: () => Promise<void>;
  readonly create: (body: SetBody) => Promise<StoredSet>;
  /** Saves a set; its version guards the write. */
  readonly save: (set: Omit<StoredSet, 'updatedAt'>) => Promise<StoredSet>;
  readonly remove: (set: StoredSet) => Promise<void>;
  readonly bringBack: (set: StoredSet) => Promise<StoredSet>;
}

function createSetsStore(projectId: string): SetsStore {
  const store = createStore<SetsState>(() => ({ status: 'loading', message: '', sets: [], deleted: undefined }));
  const put = (set: StoredSet): StoredSet => {
    store.setState(({ sets }) => ({
      status: 'ready',
      sets: [...sets.filter((s) => s.id !== set.id), set].sort((a, b) => a.name.localeCompare(b.name)),
    }));
    return set;
  };
  const load = async (): Promise<void> => {
    try {
      store.setState({ status: 'ready', message: '', sets: await api.sets(projectId) });
    } catch (error) {
      if (store.getState().status !== 'ready') store.setState({ status: 'failed', message: sentence(error) });
    }
  };
  return {
    ...followedWhileHeard(store, projectId, 'set', (s) => s.sets, load),
    load,
    create: async (body) => put(await api.createSet(projectId, body)),
    save: async (set) => put(await api.changeSet(set)),
    async bringBack(set) {
      const back = put(await api.createSet(projectId, set));
      store.setState({ deleted: undefined });
      return back;
    },
    async remove(set) {
      await api.deleteSet(set);
      store.setState(({ sets }) => ({ sets: sets.filter((s) => s.id !== set.id), deleted: set }));
    },
  };
}

const stores = new Map<string, SetsStore>();

/** The one store of a project's sets; it asks the server when it is first asked for. */
export function setsOf(projectId: string): SetsStore {
  let store = stores.get(projectId);
  if (!store) {
    stores.set(projectId, (store = createSetsStore(projectId)));
    void store.load();
  }
  return store;
}
