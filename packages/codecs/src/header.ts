import { imageSize } from 'image-size';
import { broken, BYTE_LIMIT, PIXEL_LIMIT, tooManyBytes, tooManyPixels, wrongType } from './limits.ts';
import { flaws } from './wording.ts';

/** Kinds of image file that are taken in, with their media types. */
export const IMAGE_TYPES = {
  png: 'image/png',
  jpg: 'image/jpeg',
  webp: 'image/webp',
  tga: 'image/x-tga',
  gif: 'image/gif',
} as const;
export type ImageType = keyof typeof IMAGE_TYPES;

/** How the kinds are called in a sentence. */
export const TYPE_NAMES: Readonly<Record<ImageType, string>> = {
  png: 'PNG',
  jpg: 'JPEG',
  webp: 'WebP',
  tga: 'TGA',
  gif: 'GIF',
};

export interface ImageHeader {
  readonly type: ImageType;
  readonly mime: (typeof IMAGE_TYPES)[ImageType];
  /** In pixels. */
  readonly width: number;
  readonly height: number;
  /** Bits a channel, as far as a shader is concerned: 16 for a PNG of 16, else 8. */
  readonly bits: 8 | 16;
}

const starts = (bytes: Uint8Array, ...signature: readonly number[]): boolean =>
  signature.every((b, i) => bytes[i] === b);

/** The kind by its first bytes; TGA has none to go by, so its header has to make sense (TGA 2.0, field 1 to 5). */
function typeOf(bytes: Uint8Array): ImageType | undefined {
  if (starts(bytes, 0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a)) return 'png';
  if (starts(bytes, 0xff, 0xd8, 0xff)) return 'jpg';
  if (starts(bytes, 0x52, 0x49, 0x46, 0x46) && starts(bytes.subarray(8), 0x57, 0x45, 0x42, 0x50)) return 'webp';
  if (starts(bytes, 0x47, 0x49, 0x46, 0x38)) return 'gif';
  const [, map = 9, kind = 0] = bytes;
  const depth = bytes[16] ?? 0;
  if (bytes.length >= 18 && map <= 1 && [1, 2, 3, 9, 10, 11].includes(kind) && [8, 15, 16, 24, 32].includes(depth))
    return 'tga';
  return undefined;
}

/**
 * Size of a JPEG, from its first frame header (ITU-T T.81, B.2.2: SOF0 to SOF15 without DHT, JPG and DAC); undefined
 * where there is none. One walk over the segments, however many there are.
 */
function jpegSize(bytes: Uint8Array): { width: number; height: number } | undefined {
  const word = (i: number): number => ((bytes[i] ?? 0) << 8) | (bytes[i + 1] ?? 0);
  for (let at = 2; at + 9 < bytes.length;) {
    if (bytes[at] !== 0xff) return undefined;
    const marker = bytes[at + 1]!;
    if (marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker))
      return { height: word(at + 5), width: word(at + 7) };
    // Fill bytes, and markers that stand alone.
    if (marker === 0xff) at += 1;
    else if (marker === 0x01 || (marker >= 0xd0 && marker <= 0xd8)) at += 2;
    else if (marker === 0xda || marker === 0xd9 || word(at + 2) < 2) return undefined;
    else at += 2 + word(at + 2);
  }
  return undefined;
}

/**
 * What a file says of itself, before anything is decoded. Throws ImageRefused where it is no image, broken, or beyond a
 * limit.
 */
export function readHeader(bytes: Uint8Array): ImageHeader {
  if (bytes.length > BYTE_LIMIT) throw tooManyBytes(bytes.length);
  const type = typeOf(bytes);
  if (!type) throw wrongType();
  // A PNG's header chunk ends with its 33rd byte.
  if (type === 'png' && bytes.length < 33) throw broken('PNG', flaws.cutOff);
  let size: { width: number; height: number } | undefined;
  try {
    size = type === 'jpg' ? jpegSize(bytes) : imageSize(bytes);
  } catch {
    size = undefined;
  }
  if (!size) throw broken(TYPE_NAMES[type], flaws.header);
  const { width, height } = size;
  if (!(width > 0 && height > 0)) throw broken(TYPE_NAMES[type], flaws.noPixels);
  if (width * height > PIXEL_LIMIT) throw tooManyPixels(width, height);
  return { type, mime: IMAGE_TYPES[type], width, height, bits: type === 'png' && bytes[24] === 16 ? 16 : 8 };
}
