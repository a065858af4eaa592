import type { ImageSlot } from '../ir/node.ts';

/** Pixels as stored: rows from the top, red, green, blue, alpha; 8 or 16 bits a channel. */
export interface PixelImage {
  readonly width: number;
  readonly height: number;
  readonly data: Uint8Array | Uint16Array;
}

/** Finds the pixels behind an image declaration; undefined where there is no such source. */
export type ImageSource = (slot: ImageSlot) => PixelImage | undefined;

/** A channel by its place: 0 red, 1 green, 2 blue, 3 alpha. */
export type ChannelIndex = 0 | 1 | 2 | 3;

/** The stored value that stands for 1. */
export const mostOf = ({ data }: PixelImage): number => (data instanceof Uint16Array ? 65535 : 255);

/** A clear image. */
export function blankImage(width: number, height: number, bits: 8 | 16): PixelImage {
  return {
    width,
    height,
    data: bits === 16 ? new Uint16Array(width * height * 4) : new Uint8Array(width * height * 4),
  };
}

export const copyOf = ({ width, height, data }: PixelImage): PixelImage => ({ width, height, data: data.slice() });

/** So far from the first texel a coordinate of 32 bits tells texels apart, to a quarter and better. */
export const MOST_TEXELS = 2 ** 21;
