import type { BakeChunk } from '@estela/core';
import { Queue } from 'bullmq';
import type { Redis } from 'ioredis';
import type { Logger } from 'pino';
import type { AwaitedChunk, AwaitedChunks } from '../workers/awaited-chunks.ts';
import type { WorkersService } from '../workers/workers.service.ts';
import type { BakeEngine, Taken } from './bake-queue.ts';
import { chunkKey, MOST_LOST, type ChunkJob } from './chunk-job.ts';
import { answers } from './redis.ts';
import { why } from '../../http/wording.ts';

/** Milliseconds between two looks at Redis. */
const PAUSE = 2000;
/** Fewest chunks that are given out, whoever is there. */
const LEAST_ROOM = 4;

/** A queue in Redis. */
export interface RedisQueue {
  readonly redis: Redis;
  /** Its name there: of this server alone. */
  readonly queue: string;
  readonly log: Logger;
}

/** Gives chunks to workers on other machines, by a queue in Redis; what they compute comes by HTTP. */
export class RedisEngine implements BakeEngine {
  readonly queue: string;
  readonly redis: Redis;
  readonly log: Logger;
  changed: () => void = () => undefined;
  readonly #queue: Queue<ChunkJob>;
  readonly #timer: NodeJS.Timeout;
  isUp = true;
  #jobs = 0;
  #looking: Promise<void> = Promise.resolve();

  constructor(
    readonly awaited: AwaitedChunks,
    readonly workers: WorkersService,
    { redis, queue, log }: RedisQueue,
  ) {
    this.redis = redis;
    this.queue = queue;
    this.log = log;
    this.#queue = new Queue(queue, {
      connection: redis,
      defaultJobOptions: { removeOnComplete: true, removeOnFail: false, attempts: 3 },
    });
    this.#queue.on('error', (error) => {
      log.warn({ err: error }, 'the queue in Redis');
    });
    this.#timer = setInterval(() => {
      this.#looking = this.#looking
        .then(() => this.#look())
        .catch((error: unknown) => {
          log.warn({ err: error }, 'Redis could not be checked');
        });
    }, PAUSE);
  }

  /** Each worker computes some chunks, holds one more, and finds as many waiting. */
  get room(): number {
    const { workers, jobs } = this.workers.there;
    return Math.max(LEAST_ROOM, 2 * (jobs + workers));
  }

  get waits(): string | undefined {
    if (!this.isUp) return why.waitsForRedis;
    return this.workers.there.jobs === 0 ? why.waitsForWorkers : undefined;
  }

  async compute(bake: Taken, chunk: BakeChunk): Promise<void> {
    const done = this.awaited.wait(bake, chunk);
    // Where Redis does not take it now, it is put there when it does again.
    await Promise.all([done, this.#add([{ bake, chunk }]).catch(() => undefined)]);
    // What a worker has already it asks about, or finds nobody waiting for.
    if (bake.stop.aborted)
      await this.#queue.remove(chunkKey({ bakeId: bake.work.id, first: chunk.first })).catch(() => undefined);
  }

  async end(): Promise<void> {
    clearInterval(this.#timer);
    await this.#looking;
    await this.#queue.close().catch(() => undefined);
    this.redis.disconnect();
  }

  /** A chunk that is there already stays as it is. */
  async #add(chunks: readonly Pick<AwaitedChunk, 'bake' | 'chunk'>[]): Promise<void> {
    await this.#queue.addBulk(
      chunks.map(({ bake: { work }, chunk: { first, end } }) => {
        const { id: bakeId, text, recipe, images, plan } = work;
        return {
          name: 'chunk',
          data: { bakeId, title: plan.name, text, recipe, images, first, end },
          opts: { jobId: chunkKey({ bakeId, first }) },
        };
      }),
    );
  }

  /** Sees whether Redis is there, puts there what it has lost, and hears of chunks that nobody can do. */
  async #look(): Promise<void> {
    const isUp = await answers(this.redis);
    const { jobs } = this.workers.there;
    if (isUp !== this.isUp) this.log.warn(isUp ? 'Redis is connected again' : why.waitsForRedis);
    const changed = isUp !== this.isUp || jobs !== this.#jobs;
    this.isUp = isUp;
    this.#jobs = jobs;
    if (changed) this.changed();
    if (!isUp) return;
    for (const job of await this.#queue.getFailed(0, 99)) {
      // First, so that one that makes no sense is met once.
      await job.remove();
      const lost = job.failedReason.includes('stalled');
      const cause = lost ? why.endsWorkers(MOST_LOST) : job.failedReason;
      this.awaited.fail(job.data, new Error(cause));
    }
    const old = this.awaited.olderThan(PAUSE);
    if (old.length === 0) return;
    const asked = this.redis.pipeline();
    for (const { bake, chunk } of old)
      asked.exists(this.#queue.toKey(chunkKey({ bakeId: bake.work.id, first: chunk.first })));
    const found = (await asked.exec()) ?? [];
    const missing = old.filter((_, i) => found[i]?.[1] === 0);
    if (missing.length > 0) await this.#add(missing);
  }
}
