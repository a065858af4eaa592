import { setTimeout as pause } from 'node:timers/promises';
import type { ChunkPlace, WorkerHello } from '@estela/contract';
import type { Band } from '@estela/core';
import { WaitingError, Worker, type Job } from 'bullmq';
import type { Redis } from 'ioredis';
import { chunkKey, LOCK, MOST_LOST, type ChunkJob } from '../bakes/queue/chunk-job.ts';
import { packBands } from '../bakes/workers/chunk-body.ts';
import { Refused, type ServerClient } from './server-client.ts';

/** Milliseconds after which a worker that has asked nothing gives a sign of life, and after which it says again who it is. */
const [HEARTBEAT, INTRODUCTION] = [10_000, 30_000];
/** Milliseconds in which chunks that are begun may end once the worker is told to. */
const GRACE = 6000;
/** Milliseconds before something is tried again, at first and at most. */
const [FIRST_WAIT, LONGEST_WAIT] = [200, 3000];

export interface ChunkWorkerParts {
  readonly client: ServerClient;
  readonly redis: Redis;
  /** What it says of itself, but for the moment. */
  readonly facts: Omit<WorkerHello, 'clock' | 'at'>;
  /** Throws what its bake is to fail with; a Refused, or a TypeError of the network, is tried again. */
  readonly compute: (job: ChunkJob, signal: AbortSignal) => Promise<readonly Band[]>;
  /** Tells a person something. */
  readonly say: (words: string) => void;
}

/** Takes chunks from a queue in Redis, computes them, and hands them in to the server. */
export class ChunkWorker {
  readonly #parts: ChunkWorkerParts;
  readonly #at = new Map<string, ChunkPlace>();
  readonly #halt = new AbortController();
  readonly #over: Promise<string | undefined>;
  #end: (why: string | undefined) => void = () => undefined;
  #queue: Worker<ChunkJob> | undefined;
  #timer: NodeJS.Timeout | undefined;
  #isAway = false;
  /** When the server last answered, and was last told who this is. */
  #heard = 0;
  #told = 0;
  #title = '';

  constructor(parts: ChunkWorkerParts) {
    this.#parts = parts;
    this.#over = new Promise((end) => (this.#end = end));
  }

  /** Begins to work. Throws where the server refuses this worker, or cannot be reached. */
  async start(): Promise<void> {
    const { client, redis, facts, say } = this.#parts;
    const queue = await this.#join();
    this.#queue = new Worker<ChunkJob>(queue, (job, token) => this.#do(job, token), {
      connection: redis,
      name: facts.name,
      // While one is sent, the threads have work.
      concurrency: facts.jobs + 1,
      maxStalledCount: MOST_LOST,
      runRetryDelay: 1000,
      ...LOCK,
    });
    // What it means is told by what comes of it: chunks are computed again by whoever is there.
    this.#queue.on('error', () => undefined);
    this.#timer = setInterval(() => void this.#beat(), HEARTBEAT / 2);
    say(
      `"${facts.name}" bakes for ${client.server} with ${String(facts.jobs)} ${facts.jobs === 1 ? 'thread' : 'threads'}.`,
    );
  }

  /** Ends when the worker has, with the reason where it was not asked to. */
  get over(): Promise<string | undefined> {
    return this.#over;
  }

  /** Lets the chunks that are begun end for some seconds, gives back the others, and leaves. */
  async stop(why?: string): Promise<void> {
    if (this.#timer === undefined) return;
    clearInterval(this.#timer);
    this.#timer = undefined;
    await this.#queue?.pause(true).catch(() => undefined);
    const limit = Date.now() + (why === undefined ? GRACE : 0);
    while (this.#at.size > 0 && Date.now() < limit) await pause(50);
    this.#halt.abort();
    const given = Date.now() + 1000;
    while (this.#at.size > 0 && Date.now() < given) await pause(20);
    await this.#queue?.close(true).catch(() => undefined);
    await this.#parts.client.leave().catch(() => undefined);
    this.#end(why);
  }

  /** Says who this is; gives the queue. */
  async #join(): Promise<string> {
    const { client, facts } = this.#parts;
    const { queue } = await client.join({ ...facts, clock: new Date(), at: [...this.#at.values()] });
    this.#told = Date.now();
    if (queue !== null) return queue;
    await client.leave().catch(() => undefined);
    throw new Refused(409, 'This server bakes with its own threads. Start it with --redis, and this worker again.');
  }

  /** Gives a sign of life, where there was none of late. */
  async #beat(): Promise<void> {
    const now = Date.now();
    if (now - this.#heard >= HEARTBEAT || now - this.#told >= INTRODUCTION) await this.#sign();
  }

  /** Says who this is. */
  async #sign(): Promise<void> {
    try {
      await this.#join();
      this.#isThere();
    } catch (error) {
      this.#isNotThere(error);
    }
  }

  #isThere(): void {
    this.#heard = Date.now();
    if (this.#isAway) this.#parts.say('The server is connected again.');
    this.#isAway = false;
  }

  /** Ends this worker where the server will have none of it; else the server is waited for. */
  #isNotThere(error: unknown): void {
    const isAway = !(error instanceof Refused);
    if (meaningOf(error) === 'unwelcome') void this.stop((error as Error).message);
    else if (isAway && !this.#isAway) this.#parts.say('The server cannot be reached; waiting for it.');
    this.#isAway = isAway;
  }

  async #do(job: Job<ChunkJob>, token: string | undefined): Promise<void> {
    const { bakeId, first, title } = job.data;
    const place = { bakeId, first };
    const key = chunkKey(place);
    this.#at.set(key, place);
    const { client, say } = this.#parts;
    const { signal } = this.#halt;
    try {
      if (!(await this.#untilDone(() => client.begin(place, signal)))) return;
      if (title !== this.#title) say(`Bakes ${(this.#title = title)}.`);
      const packed = await this.#untilDone(async () => packBands(await this.#parts.compute(job.data, signal))).catch(
        async (error: unknown) => {
          signal.throwIfAborted();
          const cause = error instanceof Error ? error.message : String(error);
          await this.#untilDone(() => client.fail(place, cause, signal));
          return undefined;
        },
      );
      if (packed) await this.#untilDone(() => client.handIn(place, packed, signal));
    } catch (error) {
      if (!signal.aborted) throw error;
      await job.moveToWait(token);
      throw new WaitingError();
    } finally {
      this.#at.delete(key);
    }
  }

  /** Does something as often as it takes while the server is not there; says again who this is where it has forgotten. */
  async #untilDone<T>(act: () => Promise<T>): Promise<T> {
    const { signal } = this.#halt;
    for (let wait = FIRST_WAIT; ; wait = Math.min(wait * 2, LONGEST_WAIT)) {
      signal.throwIfAborted();
      try {
        const result = await act();
        this.#isThere();
        return result;
      } catch (error) {
        signal.throwIfAborted();
        const meaning = meaningOf(error);
        if (meaning === 'wrong') throw error;
        if (meaning === 'unknown') await this.#sign();
        else this.#isNotThere(error);
        await pause(wait, undefined, { signal });
      }
    }
  }
}

/**
 * What an error of a call means: that it passes, the line or the server not being ready; that the server does not know
 * this worker, or will have none of it; or that what was asked is wrong.
 */
function meaningOf(error: unknown): 'passing' | 'unknown' | 'unwelcome' | 'wrong' {
  if (error instanceof Refused) {
    const { status, kind } = error;
    if (status === 404) return 'unknown';
    if ([401, 403, 409, 422].includes(status)) return 'unwelcome';
    return kind === 'wrong-digest' || status === 408 || status === 429 || status >= 500 ? 'passing' : 'wrong';
  }
  const { name, message } = error instanceof Error ? error : { name: '', message: '' };
  return name === 'TimeoutError' || (name === 'TypeError' && /^(fetch failed|terminated)$/.test(message))
    ? 'passing'
    : 'wrong';
}
