import type { Band, PixelImage } from '@estela/core';
import { BakeThreads } from '../bakes/bake-threads.ts';
import type { ChunkJob } from '../bakes/queue/chunk-job.ts';
import type { FileCache } from './image-cache.ts';

/** Most bytes of decoded images that are kept in memory for the next chunk. */
const MOST_DECODED = 1024 ** 3;

/** Computes chunks in threads, with images from a cache. */
export class BandComputer {
  readonly #threads: BakeThreads;
  /** Decoded images by hash, the last used at the end. */
  readonly #decoded = new Map<string, Promise<PixelImage>>();
  /** Bytes of those that are decoded. */
  readonly #sizes = new Map<string, number>();

  constructor(
    readonly files: FileCache,
    jobs: number,
  ) {
    this.#threads = new BakeThreads(jobs);
  }

  /** What this machine makes of the small bake by which workers are tried. */
  trial(): Promise<string> {
    return this.#threads.run('trial');
  }

  async bands(
    { bakeId: id, text, recipe, images, first, end }: ChunkJob,
    signal: AbortSignal,
  ): Promise<readonly Band[]> {
    const decoded = new Map<string, PixelImage>();
    for (const { name, hash } of images) decoded.set(name, await this.#image(name, hash));
    return this.#threads.run('bands', { id, text, recipe, images: decoded, first, end }, signal);
  }

  end(): Promise<void> {
    return this.#threads.end();
  }

  #image(name: string, hash: string): Promise<PixelImage> {
    const known = this.#decoded.get(hash);
    const image = known ?? this.#decode(name, hash);
    this.#decoded.delete(hash);
    this.#decoded.set(hash, image);
    return image;
  }

  async #decode(name: string, hash: string): Promise<PixelImage> {
    try {
      const bytes = await this.files.get(hash);
      const image = await this.#threads.run('image', { name, bytes });
      this.#sizes.set(hash, image.data.byteLength);
      let kept = [...this.#sizes.values()].reduce((sum, size) => sum + size, 0);
      for (const oldest of this.#decoded.keys()) {
        if (kept <= MOST_DECODED || oldest === hash) break;
        // One that is still being decoded has no size yet, and stays.
        const size = this.#sizes.get(oldest);
        if (size === undefined) continue;
        this.#decoded.delete(oldest);
        this.#sizes.delete(oldest);
        kept -= size;
      }
      return image;
    } catch (error) {
      this.#decoded.delete(hash);
      throw error;
    }
  }
}
