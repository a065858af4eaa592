import type { Fitting, Refit } from '@estela/core';
import type { FitWork } from './fit.worker.ts';
import { remotely } from './remote.ts';

/** Who lays meshes anew, away from the page. */
export interface Refitter {
  readonly refit: (fitting: Fitting, how: Refit) => Promise<Fitting | { readonly problem: string }>;
  /** Ends what is under way; its promise may stay open for ever. */
  readonly stop: () => void;
}

/** Lays meshes anew in a worker of its own. */
export function refitter(): Refitter {
  const { work, stop } = remotely<FitWork>(
    () => new Worker(new URL('./fit.worker.ts', import.meta.url), { type: 'module', name: 'fitting of UVs' }),
  );
  return {
    async refit(fitting, how) {
      const done = await work().refit(fitting, how);
      // The form is the same: what is known of it by its arrays holds on.
      return 'uvs' in done
        ? { mesh: { ...fitting.mesh, uvs: done.uvs }, islands: done.islands, chosen: done.chosen }
        : done;
    },
    stop,
  };
}
