import { MessageChannel } from 'node:worker_threads';
import { Injectable, type OnModuleDestroy } from '@nestjs/common';
import { meshRefused } from '../http/problem.ts';
import type { Incoming } from '../storage/blobs.ts';
import { THREADS, threadsOf } from '../threads.ts';
import type { ReadGlb } from './mesh-worker.ts';
import { why } from '../http/wording.ts';

/** What reading one mesh may take: milliseconds from where a thread begins, and megabytes of the thread's heap. */
const [MOST_TIME, MOST_MEMORY] = [20_000, 1024];

/**
 * Reads meshes in threads of their own, so that no file, whatever is in it, keeps other requests waiting or takes the
 * server down.
 */
@Injectable()
export class MeshReader implements OnModuleDestroy {
  readonly #pool = threadsOf(import.meta, 'mesh-worker', { megabytes: MOST_MEMORY });

  #busy = 0;
  readonly #waiting: (() => void)[] = [];

  /** The triangles of a GLB; `name` is what a refusal calls it. Throws a Problem. */
  async triangles(name: string, bytes: Incoming): Promise<number> {
    const read = await this.#read(bytes);
    if ('refused' in read) throw meshRefused(name, read.refused);
    return read.triangles;
  }

  async #read(incoming: Incoming): Promise<ReadGlb> {
    while (this.#busy >= THREADS) await new Promise<void>((go) => this.#waiting.push(go));
    this.#busy++;
    const { port1: heard, port2: begun } = new MessageChannel();
    const stop = new AbortController();
    let timer: NodeJS.Timeout | undefined;
    heard.once('message', () => (timer = setTimeout(() => stop.abort(), MOST_TIME)));
    try {
      // Only as many are in memory as there are threads to read them.
      const bytes = await incoming.read(0, incoming.size);
      return (await this.#pool.run({ bytes, begun }, { signal: stop.signal, transferList: [begun] })) as ReadGlb;
    } catch (error) {
      const needs =
        error instanceof Error && 'code' in error && error.code === 'ERR_WORKER_OUT_OF_MEMORY'
          ? 'more memory'
          : error instanceof Error && error.name === 'AbortError'
            ? 'more time'
            : undefined;
      if (needs === undefined) throw error;
      return { refused: { code: 'too-many-parts', message: why.meshTooHeavy(needs) } };
    } finally {
      clearTimeout(timer);
      heard.close();
      this.#busy--;
      this.#waiting.shift()?.();
    }
  }

  async onModuleDestroy(): Promise<void> {
    await this.#pool.destroy();
  }
}
