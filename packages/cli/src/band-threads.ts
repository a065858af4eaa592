import { Worker } from 'node:worker_threads';
import { bandsOf, type Band, type BandPlace } from '@estela/core';
import type { AskedBand, BakedBand, BakeJob } from './bake-job.ts';

/** Bands for each thread that may be ahead of what is written: what is kept in memory does not grow with the frames. */
const AHEAD = 4;

/** Bakes the bands of all pictures in threads, and gives them in order; throws the reason of `stop` where it is told to. */
export async function* bakedBands(
  job: BakeJob,
  threads: number,
  stop: AbortSignal,
): AsyncGenerator<{ readonly place: BandPlace; readonly band: Band }> {
  const places = bandsOf(job.pictures, job.options, job.cells);
  const done = new Map<number, Band>();
  let [asked, given] = [0, 0];
  let wake: () => void = () => undefined;
  let failed: unknown;
  const workers = Array.from(
    { length: Math.min(threads, places.length) },
    () => new Worker(new URL('./bake.worker.js', import.meta.url), { workerData: job }),
  );
  const idle = new Set(workers);
  const ask = (): void => {
    for (const worker of idle) {
      const place = places[asked];
      if (!place || asked >= given + AHEAD * threads) return;
      worker.postMessage({ index: asked++, place } satisfies AskedBand);
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
    for (; given < places.length; given++) {
      ask();
      while (!done.has(given) && failed === undefined) await new Promise<void>((go) => (wake = go));
      if (failed !== undefined) throw failed as Error;
      yield { place: places[given]!, band: done.get(given)! };
      done.delete(given);
    }
  } finally {
    stop.removeEventListener('abort', halted);
    await Promise.all(workers.map((worker) => worker.terminate()));
  }
}
