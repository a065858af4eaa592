import type { MeshData } from '@estela/core';
import type { StoredMesh } from '../api/client.ts';
import type { MeshesStore } from '../project/meshes-store.ts';
import { createFit, type Fit } from './fit-store.ts';
import type { Refitter } from '../workers/refitter.ts';

/** A mesh that is open to be fitted. */
export interface OpenFit {
  readonly fit: Fit;
  /** Learns the version that is stored now, for saving over it. */
  readonly refresh: () => Promise<void>;
  readonly rename: (name: string) => Promise<void>;
}

/** Opens a mesh for fitting: its UVs are saved by themselves, guarded by the version they were changed from. */
export function openFit(store: MeshesStore, mesh: StoredMesh, data: MeshData, worker: Refitter): OpenFit {
  const { id } = mesh;
  // Not the store's: that may have learnt of a version that was never seen here.
  let { version } = mesh;
  const storing = {
    async write(next: MeshData) {
      ({ version } = await store.write(id, next, version));
    },
    async recognise(sent: readonly MeshData[]) {
      const found = await store.recognise(id, sent);
      if (found) ({ version } = found);
      return found?.mesh;
    },
  };
  return {
    fit: createFit(data, storing, worker),
    async refresh() {
      version = (await store.newest(id)).version;
    },
    async rename(name) {
      const before = version;
      const renamed = await store.rename(id, name);
      // A name is no other content; what someone else changed before it still is.
      if (renamed.version === before + 1) ({ version } = renamed);
    },
  };
}
