import type { BakeChunk, PixelImage } from '@estela/core';
import { BakeThreads } from './bake-threads.ts';
import type { BakeQueue, BakeSink, BakeWork } from './bake-queue.ts';
import type { BakeTasks, Drawn } from './bake-worker.ts';

/** Most milliseconds that one chunk may take: a thread that hangs is ended. */
const MOST_TIME = 15 * 60_000;

/** A bake that is worked on. */
interface Running {
  readonly work: BakeWork;
  readonly stop: AbortController;
  /** Chunks that nobody has taken. */
  readonly left: BakeChunk[];
  /** What threads are told; made when the first chunk is taken. */
  drawn: Promise<Drawn> | undefined;
  /** Chunks that are being done. */
  under: number;
  readonly ends: Set<Promise<void>>;
}

/** Bakes in threads of this process. */
export class EmbeddedQueue implements BakeQueue {
  readonly #pool: BakeThreads;
  /** In the order of their turns. */
  readonly #bakes = new Map<string, Running>();
  #busy = 0;

  constructor(
    readonly sink: BakeSink,
    readonly threads: number,
  ) {
    this.#pool = new BakeThreads(threads);
  }

  enqueue(work: BakeWork): void {
    this.#bakes.set(work.id, {
      work,
      stop: new AbortController(),
      left: [...work.chunks],
      drawn: undefined,
      under: 0,
      ends: new Set(),
    });
    this.#next();
  }

  async cancel(id: string): Promise<void> {
    const bake = this.#bakes.get(id);
    if (!bake) return;
    this.#bakes.delete(id);
    bake.stop.abort();
    await Promise.all(bake.ends);
  }

  async end(): Promise<void> {
    await Promise.all([...this.#bakes.keys()].map((id) => this.cancel(id)));
    await this.#pool.end();
  }

  /** Gives free threads a chunk each, of one bake after the other. What is done is kept before its thread is free. */
  #next(): void {
    for (const [id, bake] of this.#bakes) {
      if (this.#busy >= this.threads) return;
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
          this.#next();
        });
      bake.ends.add(done);
    }
  }

  async #do(bake: Running, chunk: BakeChunk | undefined): Promise<void> {
    const { work, stop } = bake;
    const { id } = work;
    if (chunk) {
      bake.drawn ??= this.#begin(bake);
      const bands = await this.#run(bake, 'bands', { ...(await bake.drawn), ...chunk });
      if (stop.signal.aborted) return;
      await this.sink.kept(id, chunk, bands);
    }
    if (stop.signal.aborted || bake.left.length > 0 || bake.under > 1) return;
    await this.sink.finished(id, stop.signal);
    this.#bakes.delete(id);
  }

  /** Reads what a bake needs, and draws its picture. */
  async #begin(bake: Running): Promise<Drawn> {
    const { id, text, recipe, images, hasPicture } = bake.work;
    await this.sink.began(id);
    const decoded = new Map<string, PixelImage>();
    for (const { name, hash } of images) {
      const bytes = await this.sink.file(hash);
      decoded.set(name, await this.#run(bake, 'image', { name, bytes }));
    }
    const drawn = { id, text, recipe, images: decoded };
    if (!hasPicture) await this.sink.pictured(id, await this.#run(bake, 'picture', drawn));
    return drawn;
  }

  #run<K extends keyof BakeTasks>(
    { stop }: Running,
    kind: K,
    of: Parameters<BakeTasks[K]>[0],
  ): Promise<Awaited<ReturnType<BakeTasks[K]>>> {
    return this.#pool.run(kind, of, AbortSignal.any([stop.signal, AbortSignal.timeout(MOST_TIME)]));
  }

  /** Ends a bake that cannot go on; not one that was stopped. */
  async #fail(bake: Running, error: unknown): Promise<void> {
    if (bake.stop.signal.aborted) return;
    this.#bakes.delete(bake.work.id);
    bake.stop.abort();
    const slow = error instanceof Error && error.name === 'AbortError';
    await this.sink.failed(bake.work.id, slow ? new Error('One part of it took more than 15 minutes.') : error);
  }
}
