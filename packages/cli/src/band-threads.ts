import { Worker } from 'node:worker_threads';
import type { Band } from '@estela/core';
import type { BakedBand, BakeJob } from './bake-job.ts';

/** Bands for each thread that may be ahead of what is written: what is kept in memory does not grow with the frames. */
const AHEAD = 4;

/** Bakes so many bands in threads, and gives them in order; throws the reason of `stop` where it is told to. */
export async function* bakedBands(
  job: BakeJob,
  count: number,
  threads: number,
  stop: AbortSignal,
): AsyncGenerator<Band> {
  const done = new Map<number, Band>();
  let [asked, given] = [0, 0];
  let wake: () => void = () => undefined;
  let failed: unknown;
  const workers = Array.from(
    { length: Math.min(threads, count) },
    () => new Worker(new URL('./bake.worker.js', import.meta.url), { workerData: job }),
  );
  const idle = new Set(workers);
  const ask = (): void => {
    for (const worker of idle) {
      if (asked >= Math.min(count, given + AHEAD * threads)) return;
      worker.postMessage(asked++);
      idle.delete(worker);
    }
  };
  const fail = (error: unknown): void => {
    failed ??= error;
    wake();
  };
  for (const worker of workers) {
    worker.on('message', ({ index, band }: BakedBand) => {
      done.set(index, band);
      idle.add(worker);
      ask();
      wake();
    });
    worker.on('error', fail);
  }
  const halted = (): void => {
    fail(stop.reason);
  };
  stop.addEventListener('abort', halted);
  try {
    for (; given < count; given++) {
      ask();
      while (!done.has(given) && failed === undefined) await new Promise<void>((go) => (wake = go));
      if (failed !== undefined) throw failed as Error;
      yield done.get(given)!;
      done.delete(given);
    }
  } finally {
    stop.removeEventListener('abort', halted);
    await Promise.all(workers.map((worker) => worker.terminate()));
  }
}
