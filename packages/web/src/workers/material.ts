import type { Remote } from 'comlink';
import type { MaterialWork } from './material.worker.ts';
import { remotely } from './remote.ts';

type Use = 'examine' | 'draw';
const start = (name: string) =>
  remotely<MaterialWork>(() => new Worker(new URL('./material.worker.ts', import.meta.url), { type: 'module', name }));
const workers = { examine: start('checks of a material'), draw: start('pictures of a material') };

/**
 * A worker for what follows from a material. What is drawn from it and read at a pixel has one of its own, so that no
 * long examination holds it up; each who asks it waits for an answer before the next question, so none waits long.
 */
export const material = (use: Use): Remote<MaterialWork> => workers[use].work();
