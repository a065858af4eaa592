import type { BakeRecipe, Band, PixelImage } from '@estela/core';

/** What a thread is told once: the material, and what is made of it. */
export interface BakeJob {
  readonly text: string;
  /** By the names that the text gives them. */
  readonly images: ReadonlyMap<string, PixelImage>;
  readonly recipe: BakeRecipe;
}

/** A band by its place in the plan, as a thread answers. */
export interface BakedBand {
  readonly index: number;
  readonly band: Band;
}
