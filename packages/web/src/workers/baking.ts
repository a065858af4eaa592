import type { Remote } from 'comlink';
import type { BakingWork } from './baking.worker.ts';
import { remotely } from './remote.ts';
import { reading } from './textures.ts';

const start = (name: string) =>
  remotely<BakingWork>(
    () => new Worker(new URL('./baking.worker.ts', import.meta.url), { type: 'module', name }),
    reading(0),
  );

/** Long work on what may be baked, of one kind at a time; ending it ends its worker. */
export class Baking {
  readonly #worker;
  #ended: (() => void) | undefined;

  constructor(name: string) {
    this.#worker = start(name);
  }

  /** Does some work in place of what it was at; undefined where it was ended first. */
  async run<T>(work: (worker: Remote<BakingWork>) => Promise<T>): Promise<T | undefined> {
    this.end();
    const ended = new Promise<undefined>((resolve) => {
      this.#ended = () => {
        resolve(undefined);
      };
    });
    const mine = this.#ended;
    try {
      return await Promise.race([work(this.#worker.work()), ended]);
    } finally {
      if (this.#ended === mine) this.#ended = undefined;
    }
  }

  end(): void {
    if (!this.#ended) return;
    this.#worker.stop();
    this.#ended();
    this.#ended = undefined;
  }

  /** Ends its worker, also where it is at nothing. */
  close(): void {
    this.end();
    this.#worker.stop();
  }
}
