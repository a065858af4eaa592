import type { BakeOptions, PixelImage } from '@estela/core';

/** What a thread is told: the material, and which frames of it to compute. */
export interface BakeJob {
  readonly text: string;
  readonly images: ReadonlyMap<string, PixelImage>;
  readonly dials: ReadonlyMap<string, readonly number[]>;
  readonly switches: ReadonlyMap<string, boolean>;
  readonly options: BakeOptions;
  readonly frames: readonly number[];
}

/** What a thread answers, once a frame. */
export interface BakedFrame {
  readonly frame: number;
  readonly data: Uint8Array<ArrayBuffer>;
}
