import { wrap, type Remote } from 'comlink';
import type { PixelWork } from './pixels.worker.ts';

type Use = 'stage' | 'sources' | 'import';
const running = new Map<Use, { worker: Worker; work: Remote<PixelWork> }>();

/** A worker for pixels. Each use has its own, so that a long import never holds up the Stage. */
export function pixels(use: Use): Remote<PixelWork> {
  let known = running.get(use);
  if (!known) {
    const worker = new Worker(new URL('./pixels.worker.ts', import.meta.url), { type: 'module', name: `pixels for ${use}` });
    known = { worker, work: wrap<PixelWork>(worker) };
    running.set(use, known);
  }
  return known.work;
}

/** Ends what a worker is at; the next question starts another. Promises of the old one stay open for ever. */
export function stopPixels(use: Use): void {
  running.get(use)?.worker.terminate();
  running.delete(use);
}
