import type { ImageSlot } from '../ir/node.ts';

/** Pixels as stored: rows from the top, red, green, blue, alpha; 8 or 16 bits a channel. */
export interface PixelImage {
  readonly width: number;
  readonly height: number;
  readonly data: Uint8Array | Uint16Array;
}

/** Finds the pixels behind an image declaration; undefined where there is no such source. */
export type ImageSource = (slot: ImageSlot) => PixelImage | undefined;
