import type { FaceGraph, Fitted, Fitting, MeshData, Refit } from '@estela/core';
import type { FitWork } from './fit.worker.ts';
import { remotely } from './remote.ts';

/** Who lays meshes anew, away from the page. */
export interface Refitter {
  readonly refit: (fitting: Fitting, how: Refit) => Promise<Fitting | Exclude<Fitted, { readonly mesh: MeshData }>>;
  /** The faces of a mesh, and how they hang together in space. */
  readonly faces: (mesh: MeshData) => Promise<FaceGraph>;
  /** Ends what is under way; its promise may stay open for ever. */
  readonly stop: () => void;
}

/** Lays meshes anew in a worker of its own. */
export function refitter(): Refitter {
  const { work, stop } = remotely<FitWork>(
    () => new Worker(new URL('./fit.worker.ts', import.meta.url), { type: 'module', name: 'UV editing' }),
  );
  return {
    async refit(fitting, how) {
      const done = await work().refit(fitting, how);
      // The form is the same: what is known of it by its arrays holds on.
      return 'uvs' in done
        ? { mesh: { ...fitting.mesh, uvs: done.uvs }, islands: done.islands, selected: done.selected }
        : done;
    },
    faces: (mesh) => work().faces(mesh),
    stop,
  };
}
