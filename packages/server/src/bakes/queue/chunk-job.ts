import type { ChunkPlace } from '@estela/contract';
import type { BakeChunk, BakeRecipe } from '@estela/core';
import type { ReadImage } from './bake-queue.ts';

/** A chunk as it stands in Redis: all that a worker must know of it, but for the bytes of images. */
export interface ChunkJob extends BakeChunk, ChunkPlace {
  readonly title: string;
  readonly text: string;
  readonly recipe: BakeRecipe;
  readonly images: readonly ReadImage[];
}

/** Names a chunk, here and in Redis. */
export const chunkKey = ({ bakeId, first }: ChunkPlace): string => `${bakeId}-${String(first)}`;

/** How often a chunk may end the worker that has it before its bake fails. */
export const MOST_LOST = 5;

/** Milliseconds for which a worker has a chunk without a sign of life, and after which others look for such. */
export const LOCK = { lockDuration: 6000, stalledInterval: 3000 } as const;
