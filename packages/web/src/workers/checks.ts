import type { Remote } from 'comlink';
import type { CheckWork } from './checks.worker.ts';
import { remotely } from './remote.ts';

type Use = 'examine' | 'draw';
const start = (name: string) =>
  remotely<CheckWork>(() => new Worker(new URL('./checks.worker.ts', import.meta.url), { type: 'module', name }));
const workers = { examine: start('checks'), draw: start('pictures of checks') };

/**
 * A worker that examines materials. What is drawn from them has one of its own, so that no long examination holds it
 * up.
 */
export const checks = (use: Use): Remote<CheckWork> => workers[use].work();
