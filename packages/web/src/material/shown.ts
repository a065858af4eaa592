import { fromSrgb, type PixelImage } from '@estela/core';

/** Which part of a picture is looked at: with its alpha, without, or one channel as grey. */
export const CHANNEL_VIEWS = ['all', 'rgb', 'r', 'g', 'b', 'a'] as const;
export type ChannelView = (typeof CHANNEL_VIEWS)[number];

/** Pixels ready for the graphics card: bytes as stored, or decoded floats of a 16-bit picture. */
export interface GlPixels {
  readonly width: number;
  readonly height: number;
  readonly data: Uint8Array<ArrayBuffer> | Float32Array<ArrayBuffer>;
}

/**
 * A smaller copy whose sides are at most `most`, each pixel the mean of a square of them, alpha weighing the colours; 8
 * bits.
 */
export function bytesOf(
  image: PixelImage,
  most = Infinity,
): { width: number; height: number; data: Uint8Array<ArrayBuffer> } {
  const { data } = image;
  const shift = data instanceof Uint16Array ? 8 : 0;
  const by = Math.max(1, Math.ceil(Math.max(image.width, image.height) / most));
  if (by === 1)
    return {
      width: image.width,
      height: image.height,
      data: shift === 0 ? new Uint8Array(data) : Uint8Array.from(data, (v) => v >> 8),
    };
  const [width, height] = [Math.max(1, Math.floor(image.width / by)), Math.max(1, Math.floor(image.height / by))];
  const result = new Uint8Array(width * height * 4);
  // Of large squares not every pixel is asked.
  const stride = Math.max(1, Math.floor(by / 4));
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      let [r, g, b, a, n] = [0, 0, 0, 0, 0];
      for (let dy = 0; dy < by && y * by + dy < image.height; dy += stride) {
        for (let dx = 0; dx < by && x * by + dx < image.width; dx += stride) {
          const at = ((y * by + dy) * image.width + x * by + dx) * 4;
          r += data[at]! >> shift;
          g += data[at + 1]! >> shift;
          b += data[at + 2]! >> shift;
          a += data[at + 3]! >> shift;
          n++;
        }
      }
      result.set([r / n, g / n, b / n, a / n], (y * width + x) * 4);
    }
  }
  return { width, height, data: result };
}

/** Pixels as a canvas can show them, one look at a time. */
export function shown(image: PixelImage, look: ChannelView, most: number): Promise<ImageBitmap> {
  const { width, height, data } = bytesOf(image, most);
  const channel = 'rgba'.indexOf(look);
  for (let i = 0; i < data.length && look !== 'all'; i += 4) {
    if (look !== 'rgb') data.fill(data[i + channel]!, i, i + 3);
    data[i + 3] = 255;
  }
  return createImageBitmap(new ImageData(new Uint8ClampedArray(data.buffer), width, height));
}

/**
 * Pixels for a texture whose sides may be at most `most`. 16 bits become floats: linear light for a colour, else 0..1
 * as stored.
 */
export function forTexture(image: PixelImage, color: boolean, most: number): GlPixels {
  const { width, height, data } = image;
  if (data instanceof Uint16Array && width <= most && height <= most) {
    const floats = new Float32Array(data.length);
    for (let i = 0; i < floats.length; i++)
      floats[i] = color && i % 4 !== 3 ? fromSrgb(data[i]! / 65535) : data[i]! / 65535;
    return { width, height, data: floats };
  }
  return bytesOf(image, most);
}
