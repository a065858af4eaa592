import type { MeshData } from '@estela/core';
import { followedWhileHeard } from './followed.ts';
import { createStore, type StoreApi } from 'zustand/vanilla';
import { api, sentence, type StoredMesh } from '../api/client.ts';
import { meshFiles } from '../workers/meshes.ts';
import { sha256 } from '../workers/sha256.ts';

export interface MeshesState {
  readonly status: 'loading' | 'ready' | 'failed';
  readonly message: string;
  readonly meshes: readonly StoredMesh[];
}

/** The meshes of a project as the server last told them. */
export interface MeshesStore extends StoreApi<MeshesState> {
  readonly projectId: string;
  readonly load: () => Promise<void>;
  readonly create: (name: string, mesh: MeshData) => Promise<StoredMesh>;
  /** Gives a mesh another content; the version it was made from guards it. */
  readonly write: (id: string, mesh: MeshData, version: number) => Promise<StoredMesh>;
  /** A mesh as it is stored now. */
  readonly newest: (id: string) => Promise<StoredMesh>;
  /** Which of these contents is stored now, if any, with its version. */
  readonly recognise: (
    id: string,
    sent: readonly MeshData[],
  ) => Promise<{ readonly mesh: MeshData; readonly version: number } | undefined>;
  readonly rename: (id: string, name: string) => Promise<StoredMesh>;
  readonly remove: (id: string) => Promise<void>;
  /** Stores a deleted mesh again, under its name and id. */
  readonly bringBack: (mesh: StoredMesh) => Promise<StoredMesh>;
}

function createMeshesStore(projectId: string): MeshesStore {
  const store = createStore<MeshesState>(() => ({ status: 'loading', message: '', meshes: [] }));
  const put = (mesh: StoredMesh): StoredMesh => {
    store.setState(({ meshes }) => ({
      status: 'ready',
      meshes: [...meshes.filter((m) => m.id !== mesh.id), mesh].sort((a, b) => a.name.localeCompare(b.name)),
    }));
    return mesh;
  };
  const current = (id: string): StoredMesh => {
    const mesh = store.getState().meshes.find((m) => m.id === id);
    if (!mesh) throw new Error('This mesh was deleted.');
    return mesh;
  };
  const newest = async (id: string): Promise<StoredMesh> => {
    const mesh = (await api.meshes(projectId)).find((m) => m.id === id);
    if (!mesh) throw new Error('This mesh was deleted.');
    return put(mesh);
  };
  const fileOf = async (mesh: MeshData, name: string): Promise<Blob> =>
    new Blob([await meshFiles().glb(mesh, name)], { type: 'model/gltf-binary' });
  const load = async (): Promise<void> => {
    try {
      store.setState({ status: 'ready', message: '', meshes: await api.meshes(projectId) });
    } catch (error) {
      if (store.getState().status !== 'ready') store.setState({ status: 'failed', message: sentence(error) });
    }
  };
  return {
    ...followedWhileHeard(store, projectId, 'mesh', (s) => s.meshes, load),
    projectId,
    load,
    create: async (name, mesh) => put(await api.createMesh(projectId, { name, file: await fileOf(mesh, name) })),
    async write(id, mesh, version) {
      const known = current(id);
      return put(await api.changeMesh({ ...known, version }, { file: await fileOf(mesh, known.name) }));
    },
    newest,
    async recognise(id, sent) {
      const { hash, version } = await newest(id);
      for (const mesh of sent)
        // A file holds the mesh's name: one that was given since makes it another.
        if ((await sha256(await meshFiles().glb(mesh, current(id).name))) === hash) return { mesh, version };
      return undefined;
    },
    rename: async (id, name) => put(await api.changeMesh(current(id), { name })),
    bringBack: async ({ id, name, hash }) => put(await api.createMesh(projectId, { id, name, hash })),
    async remove(id) {
      await api.deleteMesh(current(id));
      store.setState(({ meshes }) => ({ meshes: meshes.filter((m) => m.id !== id) }));
    },
  };
}

const stores = new Map<string, MeshesStore>();

/** The one store of a project's meshes; it asks the server when it is first asked for. */
export function meshesOf(projectId: string): MeshesStore {
  let store = stores.get(projectId);
  if (!store) {
    stores.set(projectId, (store = createMeshesStore(projectId)));
    void store.load();
  }
  return store;
}
