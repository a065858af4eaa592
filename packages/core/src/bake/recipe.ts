import type { Channel } from '../check/program.ts';

/** How frames are written: a picture each, side by side, or one after the other in a PNG that moves. */
export const BAKE_FORMATS = ['sequence', 'sheet', 'apng'] as const;
export type BakeFormat = (typeof BAKE_FORMATS)[number];

/** What is baked of a material, so that it can be made again. */
export interface BakeRecipe {
  readonly format: BakeFormat;
  /** Of a frame: width and height in pixels. */
  readonly size: readonly [width: number, height: number];
  /** All of the loop, from the first to the last, a list, or so many evenly over the loop. */
  readonly frames:
    'all' | readonly [first: number, last: number] | { readonly list: readonly number[] } | { readonly count: number };
  /** Every k-th of them; 1 where nothing is said. */
  readonly every?: number;
  /** A picture each; colour where neither these nor a packing is said. */
  readonly outputs?: readonly Channel[];
  /** One picture with outputs by channel, as `r=color.r g=opacity`. */
  readonly pack?: string;
  /** Of a sheet: across; as columnsFor says, where nothing is said. */
  readonly columns?: number;
  /** Sides of a sheet are made powers of two. */
  readonly powerOfTwo?: boolean;
  readonly bits?: 8 | 16;
  /** n by n a pixel; 1 where nothing is said. */
  readonly samples?: number;
  /** Of a sheet: pixels by which edges are repeated around each frame. */
  readonly bleed?: number;
  /** Clear pixels get the colour of the nearest covered one. */
  readonly spread?: boolean;
  readonly premultiply?: boolean;
  /** Colours that are stored as linear light, not as sRGB. */
  readonly linear?: readonly Channel[];
  /** Where green of a normal points; up where nothing is said. */
  readonly normalY?: 'up' | 'down';
  readonly variant?: string;
  /** Dials and switches that are set otherwise, by name, as a text would say it. */
  readonly values?: Readonly<Record<string, string>>;
}
