import type { ChunkPlace } from '@estela/contract';
import { bandLength, framesOfChunk, type BakeChunk } from '@estela/core';
import { BakeThreads } from '../bake-threads.ts';
import type { BakeSink, Taken } from '../queue/bake-queue.ts';
import { chunkKey } from '../queue/chunk-job.ts';
import { mostBytes, type ExpectedBand } from './chunk-body.ts';
import type { WorkersService } from './workers.service.ts';

/** What a worker sent is not what was asked for. */
export class WrongChunk extends Error {}
/** What came is not what was sent. */
export class TornChunk extends Error {}

/** A chunk that is given out, and not kept yet. */
export interface AwaitedChunk {
  readonly bake: Taken;
  readonly chunk: BakeChunk;
  /** In milliseconds since 1970. */
  readonly since: number;
  readonly kept: () => void;
  readonly failed: (cause: Error) => void;
}

const expectedOf = ({ bake, chunk: { first, end } }: AwaitedChunk): ExpectedBand[] =>
  bake.work.plan.bands.slice(first, end).map((band) => ({ length: bandLength(bake.work.plan, band), last: band.last }));

/** Chunks that are computed elsewhere: who may begin them, and what is handed in. */
export class AwaitedChunks {
  readonly #awaited = new Map<string, AwaitedChunk>();
  /** Of each bake that somebody has begun. */
  readonly #begun = new WeakMap<Taken, Promise<void>>();
  readonly #judges = new BakeThreads(2);

  constructor(
    readonly sink: Pick<BakeSink, 'began' | 'kept'>,
    readonly workers: WorkersService,
  ) {}

  /** Ends when a chunk is kept, or its bake is stopped. Throws what a worker could not compute it for. */
  async wait(bake: Taken, chunk: BakeChunk): Promise<void> {
    const key = chunkKey({ bakeId: bake.work.id, first: chunk.first });
    const { stop } = bake;
    let halted: () => void = () => undefined;
    try {
      await new Promise<void>((kept, failed) => {
        halted = kept;
        this.#awaited.set(key, { bake, chunk, since: Date.now(), kept, failed });
        stop.addEventListener('abort', halted);
        if (stop.aborted) kept();
      });
    } finally {
      stop.removeEventListener('abort', halted);
      this.#awaited.delete(key);
    }
  }

  has(place: ChunkPlace): boolean {
    return this.#awaited.has(chunkKey(place));
  }

  /** Says of a chunk whether it is still to be computed; if so, that a worker begins it. */
  async begin(workerId: string, place: ChunkPlace): Promise<boolean> {
    const awaited = this.#awaited.get(chunkKey(place));
    if (!awaited) return false;
    const { bake } = awaited;
    let begun = this.#begun.get(bake);
    if (!begun) this.#begun.set(bake, (begun = this.sink.began(place.bakeId)));
    await begun;
    if (bake.stop.aborted) return false;
    this.workers.took(workerId, place);
    return true;
  }

  /** Most bytes that a chunk may come to; none where nobody waits for it. */
  mostBytes(place: ChunkPlace): number {
    const awaited = this.#awaited.get(chunkKey(place));
    return awaited ? mostBytes(expectedOf(awaited)) : 0;
  }

  /** Keeps what a worker computed; false where nobody waits for it any more. Throws WrongChunk or TornChunk. */
  async handIn(workerId: string, place: ChunkPlace, packed: Uint8Array, digest: string): Promise<boolean> {
    const awaited = this.#awaited.get(chunkKey(place));
    if (!awaited) {
      this.workers.ended(workerId, place);
      return false;
    }
    const { chunk, kept, failed } = awaited;
    const { work } = awaited.bake;
    const read = await this.#judges.run('unpack', { packed, digest, expected: expectedOf(awaited) });
    if ('torn' in read) throw new TornChunk();
    if ('wrong' in read) throw new WrongChunk(read.wrong);
    let frames = 0;
    try {
      // Stopped, or kept from another, meanwhile.
      if (this.#awaited.get(chunkKey(place)) !== awaited) return false;
      await this.sink.kept(work.id, chunk, read.bands);
      frames = framesOfChunk(work.plan, chunk);
      kept();
      return true;
    } catch (error) {
      failed(error as Error);
      throw error;
    } finally {
      this.workers.ended(workerId, place, frames);
    }
  }

  /** A chunk cannot be computed: its bake fails. */
  fail(place: ChunkPlace, cause: Error): void {
    this.#awaited.get(chunkKey(place))?.failed(cause);
  }

  /** Those that have been waited for so long, in milliseconds. */
  olderThan(age: number): AwaitedChunk[] {
    const limit = Date.now() - age;
    return [...this.#awaited.values()].filter(({ since }) => since <= limit);
  }

  end(): Promise<void> {
    return this.#judges.end();
  }
}
