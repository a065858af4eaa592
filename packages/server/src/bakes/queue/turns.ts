import { setMaxListeners } from 'node:events';
import type { BakeChunk } from '@estela/core';
import type { BakeEngine, BakeSink, BakeWork, Taken } from './bake-queue.ts';

interface Running extends Taken {
  readonly halt: AbortController;
  /** Chunks that are not given out. */
  readonly left: BakeChunk[];
  /** Chunks that are being done. */
  under: number;
  readonly ends: Set<Promise<void>>;
}

/**
 * The queue of bakes: gives an engine chunks of one after the other, so that a large one does not hold up a small one.
 */
export class BakeTurns {
  /** In the order of their turns. */
  readonly #bakes = new Map<string, Running>();
  #busy = 0;

  constructor(
    readonly sink: BakeSink,
    readonly engine: BakeEngine,
  ) {}

  enqueue(work: BakeWork): void {
    const halt = new AbortController();
    // One for each chunk that is being done.
    setMaxListeners(0, halt.signal);
    this.#bakes.set(work.id, { work, halt, stop: halt.signal, left: [...work.chunks], under: 0, ends: new Set() });
    this.next();
  }

  /** Stops work on a bake, within a second; nothing of it is kept after that. */
  async cancel(id: string): Promise<void> {
    const bake = this.#bakes.get(id);
    if (!bake) return;
    this.#bakes.delete(id);
    bake.halt.abort();
    await Promise.all(bake.ends);
  }

  /** Stops all work; what is kept stays. */
  async end(): Promise<void> {
    await Promise.all([...this.#bakes.keys()].map((id) => this.cancel(id)));
    await this.engine.end();
  }

  /** Gives out as many chunks as there is room for. What is done is kept before its room is free. */
  next(): void {
    for (const [id, bake] of this.#bakes) {
      if (this.#busy >= this.engine.room) return;
      const chunk = bake.left.shift();
      if (!chunk && bake.under > 0) continue;
      // The next turn is another bake's.
      this.#bakes.delete(id);
      this.#bakes.set(id, bake);
      this.#busy++;
      bake.under++;
      const done = this.#do(bake, chunk)
        .catch((error: unknown) => this.#fail(bake, error))
        .finally(() => {
          this.#busy--;
          bake.under--;
          bake.ends.delete(done);
          this.next();
        });
      bake.ends.add(done);
    }
  }

  async #do(bake: Running, chunk: BakeChunk | undefined): Promise<void> {
    const { work, stop } = bake;
    if (chunk) await this.engine.compute(bake, chunk);
    if (stop.aborted || bake.left.length > 0 || bake.under > 1) return;
    await this.sink.finished(work.id, stop);
    this.#bakes.delete(work.id);
  }

  /** Ends a bake that cannot go on; not one that was stopped. */
  async #fail(bake: Running, error: unknown): Promise<void> {
    if (bake.stop.aborted) return;
    this.#bakes.delete(bake.work.id);
    bake.halt.abort();
    await this.sink.failed(bake.work.id, error);
  }
}
