import type { BakeRecipe } from '@estela/core';
import { createStore, type StoreApi } from 'zustand/vanilla';
import { api, ApiError, sentence, type Bake } from '../api/client.ts';
import { followed, isBehind, whileHeard } from './followed.ts';

export interface BakesState {
  readonly status: 'loading' | 'ready' | 'failed';
  readonly message: string;
  /** The newest first. */
  readonly bakes: readonly Bake[];
}

/** The bakes of a project as the server last told them. */
export interface BakesStore extends StoreApi<BakesState> {
  readonly load: () => Promise<void>;
  readonly create: (materialId: string, recipe: BakeRecipe) => Promise<Bake>;
  readonly retry: (bake: Bake) => Promise<void>;
  /** Cancels one that runs, deletes any other. */
  readonly remove: (bake: Bake) => Promise<void>;
}

/** Whether work on it is to come. */
export const isUnderWay = ({ state }: Pick<Bake, 'state'>): boolean => state === 'queued' || state === 'running';

const newestFirst = (bakes: readonly Bake[]): Bake[] =>
  bakes.toSorted((a, b) => b.createdAt.localeCompare(a.createdAt));

function createBakesStore(projectId: string): BakesStore {
  const store = createStore<BakesState>(() => ({ status: 'loading', message: '', bakes: [] }));
  /** Of each list that is on its way: what was told meanwhile. */
  const underWay = new Set<Set<string>>();
  const put = (bake: Bake): Bake => {
    for (const told of underWay) told.add(bake.id);
    store.setState(({ bakes }) => {
      const known = bakes.find((b) => b.id === bake.id);
      // Answers may come in another order than they were asked for.
      if (known && known.version > bake.version) return {};
      return {
        bakes: newestFirst([...bakes.filter((b) => b !== known), bake]),
      };
    });
    return bake;
  };
  const drop = (id: string): void => {
    store.setState(({ bakes }) => ({ bakes: bakes.filter((b) => b.id !== id) }));
  };
  const load = async (): Promise<void> => {
    const told = new Set<string>();
    underWay.add(told);
    try {
      const list = await api.bakes(projectId);
      const kept = store.getState().bakes.filter((b) => told.has(b.id));
      store.setState({
        status: 'ready',
        message: '',
        bakes: newestFirst([...list.filter((b) => !told.has(b.id)), ...kept]),
      });
    } catch (error) {
      if (store.getState().status !== 'ready') store.setState({ status: 'failed', message: sentence(error) });
    } finally {
      underWay.delete(told);
    }
  };
  /** Reads one anew. */
  const look = async (id: string): Promise<void> => {
    try {
      put(await api.bake(id));
    } catch (error) {
      if (error instanceof ApiError && error.status === 404) drop(id);
    }
  };
  const versionOf = (id: string): number | undefined => store.getState().bakes.find((b) => b.id === id)?.version;
  const heard = whileHeard(store, () => {
    // What happened before this is read once; after it each by itself, as it goes on.
    void load();
    return followed(projectId, (events) => {
      if (events.includes(undefined)) void load();
      const told = events.filter((e) => e?.kind === 'bake' && isBehind(e, versionOf(e.id)));
      for (const id of new Set(told.map((e) => e!.id))) void look(id);
    });
  });
  return {
    ...heard,
    load,
    create: async (materialId, recipe) => put(await api.createBake(materialId, recipe)),
    async retry(bake) {
      put(await api.retryBake(bake.id));
    },
    async remove(bake) {
      await api.deleteBake(bake.id);
      await look(bake.id);
    },
  };
}

const stores = new Map<string, BakesStore>();

/** The one store of a project's bakes; it follows what happens while anybody listens to it. */
export function bakesOf(projectId: string): BakesStore {
  let store = stores.get(projectId);
  if (!store) stores.set(projectId, (store = createBakesStore(projectId)));
  return store;
}
