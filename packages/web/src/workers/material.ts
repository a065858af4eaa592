import type { Remote } from 'comlink';
import type { MaterialWork } from './material.worker.ts';
import { remotely, type RemoteOptions } from './remote.ts';
import { reading } from './textures.ts';
import { troubles } from './troubles.ts';

/** Milliseconds after which a material that nothing is heard of is taken for stuck. */
const PATIENCE = 60_000;

const start = (name: string, urgency: number, more: RemoteOptions<MaterialWork>) =>
  remotely<MaterialWork>(() => new Worker(new URL('./material.worker.ts', import.meta.url), { type: 'module', name }), {
    ...reading(urgency),
    ...more,
    patience: PATIENCE,
    failed: (why) => {
      troubles.setState({ last: { what: name, why } });
    },
  });

/** What is looked at most closely comes first; all else after. */
const RANKS: { readonly [K in keyof MaterialWork]?: number } = {
  values: 3,
  steps: 2,
  dissolve: 2,
  trace: 1,
  frames: 1,
};
const workers = {
  examine: start('checks', 1, {}),
  draw: start('pictures of steps', 2, { rank: (question) => RANKS[question] ?? 0 }),
};

/**
 * A worker for what follows from a material. What is drawn from it and read at a pixel has one of its own, so that no
 * long examination holds it up; each who asks it waits for an answer before the next question, so none waits long.
 */
export const material = (use: 'examine' | 'draw'): Remote<MaterialWork> => workers[use].work();
