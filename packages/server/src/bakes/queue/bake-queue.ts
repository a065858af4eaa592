import type { Band, BakeChunk, BakePlan, BakeRecipe } from '@estela/core';

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
  readonly plan: BakePlan;
  readonly images: readonly ReadImage[];
  /** In order; empty where all bands are there. */
  readonly chunks: readonly BakeChunk[];
}

/** Where a queue puts what it has done. What these throw fails the bake. */
export interface BakeSink {
  /** The file of an image. */
  readonly file: (hash: string) => Promise<Buffer>;
  /** Work on a bake has begun. */
  readonly began: (id: string) => Promise<void>;
  /** Keeps the bands of a chunk; they may come in any order, and twice. */
  readonly kept: (id: string, chunk: BakeChunk, bands: readonly Band[]) => Promise<void>;
  /** All chunks are kept; what is made of them is left where the signal says so. */
  readonly finished: (id: string, stop: AbortSignal) => Promise<void>;
  /** Throws nothing. */
  readonly failed: (id: string, error: unknown) => Promise<void>;
}

/** A bake that is worked on. */
export interface Taken {
  readonly work: BakeWork;
  /** Ends all work on it. */
  readonly stop: AbortSignal;
}

/** Computes chunks of bakes, here or elsewhere. */
export interface BakeEngine {
  /** The queue in Redis from which workers take chunks; undefined where the server has threads of its own. */
  readonly queue: string | undefined;
  /** Chunks that it takes at a time, now. */
  readonly room: number;
  /** Whether chunks can be given out now. */
  readonly isUp: boolean;
  /** Why nothing is computed now, in words that follow "waits: "; undefined where nothing is in the way. */
  readonly waits: string | undefined;
  /** Is called when there may be more room, or what is waited for has changed. */
  changed: () => void;
  /** Computes a chunk, and keeps it. Throws the cause where that fails; ends soon where the bake is stopped. */
  readonly compute: (bake: Taken, chunk: BakeChunk) => Promise<void>;
  readonly end: () => Promise<void>;
}
