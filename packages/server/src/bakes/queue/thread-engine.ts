import { randomUUID } from 'node:crypto';
import { framesOfChunk, type BakeChunk } from '@estela/core';
import { BakeThreads } from '../bake-threads.ts';
import type { Drawn } from '../bake-worker.ts';
import type { WorkersService } from '../workers/workers.service.ts';
import type { BakeEngine, BakeSink, Taken } from './bake-queue.ts';

/** Computes bakes in threads of this process. */
export class ThreadEngine implements BakeEngine {
  readonly queue = undefined;
  readonly isUp = true;
  readonly waits = undefined;
  changed: () => void = () => undefined;
  readonly #pool: BakeThreads;
  /** What threads are told of a bake; made when its first chunk is taken. */
  readonly #drawn = new WeakMap<Taken, Promise<Drawn>>();
  readonly #own = randomUUID();

  constructor(
    readonly sink: Pick<BakeSink, 'began' | 'file' | 'kept'>,
    readonly workers: WorkersService,
    readonly room: number,
  ) {
    this.#pool = new BakeThreads(room);
    workers.put(this.#own, { name: 'This server', jobs: room }, Infinity);
  }

  async compute(bake: Taken, chunk: BakeChunk): Promise<void> {
    const { work, stop } = bake;
    let drawn = this.#drawn.get(bake);
    if (!drawn) this.#drawn.set(bake, (drawn = this.#begin(bake)));
    const of = { ...(await drawn), ...chunk };
    const place = { bakeId: work.id, first: chunk.first };
    this.workers.took(this.#own, place);
    let frames = 0;
    try {
      const bands = await this.#pool.run('bands', of, stop);
      if (stop.aborted) return;
      await this.sink.kept(work.id, chunk, bands);
      frames = framesOfChunk(work.plan, chunk);
    } finally {
      this.workers.ended(this.#own, place, frames);
    }
  }

  end(): Promise<void> {
    return this.#pool.end();
  }

  /** Reads what a bake needs. */
  async #begin({ work, stop }: Taken): Promise<Drawn> {
    const { id, text, recipe, images } = work;
    await this.sink.began(id);
    return { id, text, recipe, images: await this.#pool.images(images, this.sink.file, stop) };
  }
}
