import { wrap, type Remote } from 'comlink';
import type { Refitter } from '../fit/fit-store.ts';
import type { FitWork } from './fit.worker.ts';

interface Running {
  readonly worker: Worker;
  readonly work: Remote<FitWork>;
  /** Never kept: a worker that died, of too little memory, say. */
  readonly died: Promise<never>;
}

/** Lays meshes anew in a worker that is made when it is first asked. */
export function refitter(): Refitter {
  let running: Running | undefined;
  const start = (): Running => {
    const worker = new Worker(new URL('./fit.worker.ts', import.meta.url), { type: 'module', name: 'fitting of UVs' });
    const died = new Promise<never>((_, reject) => {
      worker.addEventListener('error', (event) => {
        event.preventDefault();
        running = undefined;
        reject(new Error(event.message || 'The worker ended.'));
      });
    });
    died.catch(() => undefined);
    return { worker, work: wrap<FitWork>(worker), died };
  };
  return {
    async refit(fitting, how) {
      const { work, died } = (running ??= start());
      const done = await Promise.race([work.refit(fitting, how), died]);
      // The form is the same: what is known of it by its arrays holds on.
      return 'uvs' in done ? { mesh: { ...fitting.mesh, uvs: done.uvs }, islands: done.islands, chosen: done.chosen } : done;
    },
    stop() {
      running?.worker.terminate();
      running = undefined;
    },
  };
}
