import type { BakeOptions, Band, BandPlace, CellOptions, Layout, PixelImage } from '@estela/core';

/** What a thread is told once: the material, and the pictures that are made of it. */
export interface BakeJob {
  readonly text: string;
  readonly images: ReadonlyMap<string, PixelImage>;
  readonly dials: ReadonlyMap<string, readonly number[]>;
  readonly switches: ReadonlyMap<string, boolean>;
  readonly options: BakeOptions;
  readonly pictures: readonly Layout[];
  readonly cells: CellOptions;
}

/** A band that a thread is asked for, by its place among all, and what it answers. */
export interface AskedBand {
  readonly index: number;
  readonly place: BandPlace;
}
export interface BakedBand {
  readonly index: number;
  readonly band: Band;
}
