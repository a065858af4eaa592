import { BakeThreads } from './bake-threads.ts';
import type { BakeSubject, Planned } from './bake-worker.ts';
import type { ReadImage } from './queue/bake-queue.ts';
import { why } from '../http/wording.ts';

/** Most milliseconds that working a recipe out, or drawing its picture, may take. */
const MOST_TIME = 60_000;

/** Works out what bakes are, in threads of their own: nobody who asks for one waits for another. */
export class BakePlanner {
  readonly #threads = new BakeThreads(2);
  #trial: Promise<string> | undefined;

  plan(subject: BakeSubject): Promise<Planned> {
    const late = AbortSignal.timeout(MOST_TIME);
    return this.#threads.run('plan', subject, late).catch((error: unknown) => {
      if (late.aborted) return { refused: why.tooLongToPlan };
      throw error;
    });
  }

  /** SHA-256 of what a bake depends on, images by the hashes of their contents. */
  signature(subject: BakeSubject, hashes: ReadonlyMap<string, string>): Promise<string> {
    return this.#threads.run('signature', { ...subject, hashes });
  }

  /** What a worker must make of the small bake by which it is tried. */
  trial(): Promise<string> {
    return (this.#trial ??= this.#threads.run('trial'));
  }

  /** A small picture of the first frame; undefined where it takes too long. Throws where an image cannot be read. */
  async picture(
    subject: BakeSubject & { readonly id: string },
    images: readonly ReadImage[],
    fileOf: (hash: string) => Promise<Buffer>,
  ): Promise<Uint8Array | undefined> {
    const decoded = await this.#threads.images(images, fileOf);
    const late = AbortSignal.timeout(MOST_TIME);
    return this.#threads.run('picture', { ...subject, images: decoded }, late).catch((error: unknown) => {
      if (late.aborted) return undefined;
      throw error;
    });
  }

  end(): Promise<void> {
    return this.#threads.end();
  }
}
