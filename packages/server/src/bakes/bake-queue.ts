import type { Band, BakeChunk, BakeRecipe } from '@estela/core';

/** An image that a bake reads, by its content. */
export interface ReadImage {
  readonly name: string;
  /** SHA-256 of its file. */
  readonly hash: string;
}

/** A bake as a queue takes it on: what it is made of, and the chunks that are not done. */
export interface BakeWork {
  readonly id: string;
  readonly text: string;
  readonly recipe: BakeRecipe;
  readonly images: readonly ReadImage[];
  /** In order; empty where all bands are there. */
  readonly chunks: readonly BakeChunk[];
  readonly hasPicture: boolean;
}

/** Where a queue puts what it has done. What these throw fails the bake. */
export interface BakeSink {
  /** The file of an image. */
  readonly file: (hash: string) => Promise<Buffer>;
  /** Work on a bake has begun. */
  readonly began: (id: string) => Promise<void>;
  readonly pictured: (id: string, png: Uint8Array) => Promise<void>;
  /** Keeps the bands of a chunk; they may come in any order, and twice. */
  readonly kept: (id: string, chunk: BakeChunk, bands: readonly Band[]) => Promise<void>;
  /** All chunks are kept; what is made of them is left where the signal says so. */
  readonly finished: (id: string, stop: AbortSignal) => Promise<void>;
  /** Throws nothing. */
  readonly failed: (id: string, error: unknown) => Promise<void>;
}

/** Does the work of bakes, some chunks at a time, in turn between bakes. */
export interface BakeQueue {
  enqueue: (work: BakeWork) => void;
  /** Stops work on a bake, within a second; nothing of it is kept after that. */
  cancel: (id: string) => Promise<void>;
  /** Stops all work; what is kept stays. */
  end: () => Promise<void>;
}
