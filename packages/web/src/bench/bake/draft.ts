import { CHANNELS, type BakeRecipe, type Channel } from '@estela/core';

/** What is made: files that the server bakes, or a video, which this page does. */
export const PRODUCTS = ['sheet', 'sequence', 'apng', 'webm'] as const;
export type Product = (typeof PRODUCTS)[number];

/** Which frames are taken. */
export type Taking = 'count' | 'every' | 'all' | 'range';

/** What is set in the panel, from which a recipe is made. */
export interface BakeDraft {
  readonly product: Product;
  readonly width: number;
  readonly height: number;
  readonly taking: Taking;
  readonly count: number;
  readonly every: number;
  readonly first: number;
  readonly last: number;
  /** Undefined as it suits. */
  readonly columns: number | undefined;
  readonly powerOfTwo: boolean;
  /** Outputs, or those of a packing. */
  readonly channels: 'outputs' | 'pack';
  readonly outputs: readonly Channel[];
  readonly pack: string;
  readonly bits: 8 | 16;
  readonly samples: number;
  readonly bleed: number;
  readonly spread: boolean;
  readonly premultiply: boolean;
  readonly linear: boolean;
  readonly normalY: 'up' | 'down';
}

export const FIRST_DRAFT: BakeDraft = {
  product: 'sheet',
  width: 256,
  height: 256,
  taking: 'count',
  count: 32,
  every: 4,
  first: 0,
  last: 0,
  columns: undefined,
  powerOfTwo: false,
  channels: 'outputs',
  outputs: ['color'],
  pack: 'r=color.r g=color.g b=color.b a=color.a',
  bits: 8,
  samples: 1,
  bleed: 0,
  spread: false,
  premultiply: false,
  linear: false,
  normalY: 'up',
};

/** The recipe of a draft, as a video's frames are made where that is asked for. */
export function recipeOf(draft: BakeDraft, variant: string | undefined): BakeRecipe {
  const { product, width, height, taking, count, every, first, last, columns, channels, outputs, pack } = draft;
  const { bits, samples, bleed, spread, premultiply, linear, normalY, powerOfTwo } = draft;
  const sheet = product === 'sheet';
  const video = product === 'webm';
  return {
    format: video ? 'sequence' : product,
    size: [width, height],
    frames: taking === 'count' ? { count } : taking === 'range' ? [first, last] : 'all',
    ...(taking === 'every' ? { every } : {}),
    ...(video
      ? { outputs: [outputs[0] ?? 'color'], premultiply: true }
      : channels === 'pack'
        ? { pack }
        : { outputs: CHANNELS.filter((c) => outputs.includes(c)) }),
    ...(sheet && columns !== undefined ? { columns } : {}),
    ...(sheet && powerOfTwo ? { powerOfTwo } : {}),
    ...(sheet && bleed > 0 ? { bleed } : {}),
    ...(!video && bits === 16 ? { bits } : {}),
    ...(samples > 1 ? { samples } : {}),
    ...(!video && spread ? { spread } : {}),
    ...(!video && premultiply ? { premultiply } : {}),
    ...(!video && linear ? { linear: ['color', 'emissive'] as const } : {}),
    ...(normalY === 'down' ? { normalY } : {}),
    ...(variant === undefined ? {} : { variant }),
  };
}
