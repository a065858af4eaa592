import { wrap, type Remote } from 'comlink';
import type { CheckWork } from './checks.worker.ts';

type Use = 'examine' | 'draw';
const running = new Map<Use, Remote<CheckWork>>();

/** A worker that examines materials. What is drawn from them has one of its own, so that no long examination holds it up. */
export function checks(use: Use): Remote<CheckWork> {
  let known = running.get(use);
  if (!known) {
    const worker = new Worker(new URL('./checks.worker.ts', import.meta.url), { type: 'module', name: use === 'examine' ? 'checks' : 'pictures of checks' });
    running.set(use, (known = wrap<CheckWork>(worker)));
  }
  return known;
}
