import { threadsOf } from '../threads.ts';
import type { BakeTasks } from './bake-worker.ts';

/** Threads that do what bakes need, by the name of the task. */
export class BakeThreads {
  readonly #pool;

  constructor(threads: number) {
    this.#pool = threadsOf(import.meta, 'bake-worker', { threads });
  }

  /** Throws what the task throws, and an AbortError where the signal ends it first. */
  run<K extends keyof BakeTasks>(
    kind: K,
    of: Parameters<BakeTasks[K]>[0],
    signal?: AbortSignal,
  ): Promise<Awaited<ReturnType<BakeTasks[K]>>> {
    return this.#pool.run({ kind, of }, { signal: signal ?? null }) as Promise<Awaited<ReturnType<BakeTasks[K]>>>;
  }

  end(): Promise<void> {
    return this.#pool.destroy();
  }
}
