import { flawsOf } from './flaws.ts';
import type { PixelImage } from '@estela/core';
import decodeJpeg, { init as initJpeg } from '@jsquash/jpeg/decode.js';
import decodeWebp, { init as initWebp } from '@jsquash/webp/decode.js';
import { decodeTga } from '@lunapaint/tga-codec';
import { decodeGif } from './gif.ts';
import { readHeader, TYPE_NAMES, type ImageHeader, type ImageType } from './header.ts';
import { broken, ImageRefused } from './limits.ts';
import { decodePng } from './png.ts';

/** An image as it came out of its file. */
export interface DecodedImage extends PixelImage {
  readonly header: ImageHeader;
  /** Channels the file itself has: 1 grey, 2 grey and alpha, 3 colour, 4 colour and alpha. */
  readonly channels: number;
  /** Frames of an animation; the pixels are those of the first. */
  readonly frames: number;
}

/** Where the host has the two decoders that are WebAssembly. */
export type LoadModule = (name: 'jpeg' | 'webp') => Promise<WebAssembly.Module>;

interface Decoded {
  readonly image: PixelImage;
  readonly channels: number;
  readonly frames?: number;
}

const bytesOf = ({ data, width, height }: { data: Uint8ClampedArray; width: number; height: number }): PixelImage => ({
  width,
  height,
  data: new Uint8Array(data.buffer, data.byteOffset, data.byteLength),
});

const opaque = ({ data }: PixelImage): boolean => {
  for (let i = 3; i < data.length; i += 4) if (data[i] !== 255) return false;
  return true;
};

/**
 * A TGA's rows and columns in reading order; bits 4 and 5 of its descriptor say from where they run (TGA 2.0, field
 * 5.6).
 */
function upright({ width, height, data }: PixelImage, descriptor: number): PixelImage {
  const [fromRight, fromTop] = [(descriptor & 16) !== 0, (descriptor & 32) !== 0];
  const result = new Uint8Array(width * height * 4);
  for (let y = 0; y < height; y++) {
    const row = (fromTop ? y : height - 1 - y) * width;
    for (let x = 0; x < width; x++) {
      const from = (row + (fromRight ? width - 1 - x : x)) * 4;
      result.set(data.subarray(from, from + 4), (y * width + x) * 4);
    }
  }
  return { width, height, data: result };
}

/** Reads image files of every kind that is taken in, the same way in a page's worker and in Node. */
export class Decoder {
  #jpeg: Promise<void> | undefined;
  #webp: Promise<void> | undefined;
  readonly #by: Readonly<Record<ImageType, (bytes: Uint8Array) => Decoded | Promise<Decoded>>> = {
    png: decodePng,
    jpg: async (bytes) => {
      await (this.#jpeg ??= this.load('jpeg').then((module) =>
        (initJpeg as (m: WebAssembly.Module) => Promise<void>)(module),
      ));
      return { image: bytesOf(await decodeJpeg(new Uint8Array(bytes).buffer)), channels: 3 };
    },
    webp: async (bytes) => {
      await (this.#webp ??= this.load('webp').then((module) =>
        (initWebp as (m: WebAssembly.Module) => Promise<void>)(module),
      ));
      const image = bytesOf(await decodeWebp(new Uint8Array(bytes).buffer));
      return { image, channels: opaque(image) ? 3 : 4 };
    },
    tga: async (bytes) => {
      const { image, details } = await decodeTga(bytes);
      const grey = bytes[2] === 3 || bytes[2] === 11;
      return { image: upright(image, details.header.imageDescriptor), channels: grey ? 1 : opaque(image) ? 3 : 4 };
    },
    gif: (bytes) => {
      const { frames, count } = decodeGif(bytes, 1);
      return { image: frames[0]!, channels: opaque(frames[0]!) ? 3 : 4, frames: count };
    },
  };

  constructor(readonly load: LoadModule) {}

  /** Throws ImageRefused, with its reason, for what cannot be taken in. */
  async decode(bytes: Uint8Array): Promise<DecodedImage> {
    const header = readHeader(bytes);
    const name = TYPE_NAMES[header.type];
    const flaw = flawsOf(header.type, bytes);
    if (flaw !== undefined) throw broken(name, flaw);
    try {
      const { image, channels, frames = 1 } = await this.#by[header.type](bytes);
      return { ...image, header, channels, frames };
    } catch (error) {
      if (error instanceof ImageRefused) throw error;
      // An Emscripten program that has ended cannot be called again.
      this.#jpeg = this.#webp = undefined;
      throw broken(name, 'its pixels cannot be decoded; the file may be cut off');
    }
  }
}
