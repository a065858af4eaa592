import type { MeshData } from '@estela/core';
import type { StoredMesh } from '../api/client.ts';
import type { MeshesStore } from '../project/meshes-store.ts';
import { bringBack } from '../history/autosaved-history.ts';
import { findValueDraft, keepValue } from '../history/value-drafts.ts';
import { createFit, fittingOf, type Fit } from './fit-store.ts';
import type { Refitter } from '../workers/refitter.ts';

/** A mesh that is open to be fitted. */
export interface OpenFit {
  readonly fit: Fit;
  /** Learns the version that is stored now, for saving over it. */
  readonly refresh: () => Promise<void>;
  /** What was changed but not saved was found in this browser, and is there again. */
  readonly restored: boolean;
  /** Lets go of it, of its draft and of the worker. */
  readonly end: () => void;
  readonly rename: (name: string) => Promise<void>;
}

/** Opens a mesh for fitting: its UVs are saved by themselves, guarded by the version they were changed from. */
export async function openFit(
  store: MeshesStore,
  mesh: StoredMesh,
  data: MeshData,
  worker: Refitter,
): Promise<OpenFit> {
  const { id } = mesh;
  const thing = `mesh ${id}`;
  const draft = await findValueDraft<MeshData>(thing);
  const keeper = keepValue<MeshData>(thing);
  // Not the store's: that may have learnt of a version that was never seen here.
  let { version } = draft ?? mesh;
  const storing = {
    async write(next: MeshData) {
      ({ version } = await store.write(id, next, version));
    },
    async recognise(sent: readonly MeshData[]) {
      const found = await store.recognise(id, sent);
      if (found) ({ version } = found);
      return found?.mesh;
    },
    draft: { keep: (next: MeshData) => keeper.keep(next, version), forget: () => void keeper.forget() },
  };
  const fit = createFit(data, storing, worker);
  if (draft) bringBack(fit.kept, draft, fittingOf(draft.value));
  return {
    fit,
    restored: draft !== undefined,
    end() {
      fit.end();
      void keeper.forget();
      keeper.close();
    },
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
