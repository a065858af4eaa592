import type { PixelImage } from '@estela/core';
import { threadsOf } from '../threads.ts';
import type { BakeTasks } from './bake-worker.ts';
import type { ReadImage } from './queue/bake-queue.ts';
import { why } from '../http/wording.ts';

/** Most milliseconds of one task. */
const MOST_TIME = 15 * 60_000;

/** Threads that do what bakes need, by the name of the task. */
export class BakeThreads {
  readonly #pool;

  constructor(threads: number) {
    this.#pool = threadsOf(import.meta, 'bake-worker', { threads });
  }

  /**
   * Throws what the task throws, an AbortError where the signal ends it first, and a sentence where it takes more than 15
   * minutes: a thread that hangs is ended.
   */
  run<K extends keyof BakeTasks>(
    kind: K,
    of?: Parameters<BakeTasks[K]>[0],
    signal?: AbortSignal,
  ): Promise<Awaited<ReturnType<BakeTasks[K]>>> {
    const late = AbortSignal.timeout(MOST_TIME);
    const ends = signal ? AbortSignal.any([signal, late]) : late;
    const done = this.#pool.run({ kind, of }, { signal: ends }) as Promise<Awaited<ReturnType<BakeTasks[K]>>>;
    return done.catch((error: unknown) => {
      throw late.aborted ? new Error(why.partTooLong) : error;
    });
  }

  /** Decodes the images that a bake reads, by their names. Throws a sentence where one cannot be read. */
  async images(
    images: readonly ReadImage[],
    fileOf: (hash: string) => Promise<Buffer>,
    signal?: AbortSignal,
  ): Promise<Map<string, PixelImage>> {
    const decoded = new Map<string, PixelImage>();
    for (const { name, hash } of images)
      decoded.set(name, await this.run('image', { name, bytes: await fileOf(hash) }, signal));
    return decoded;
  }

  end(): Promise<void> {
    return this.#pool.destroy();
  }
}
