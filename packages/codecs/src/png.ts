import type { PixelImage } from '@estela/core';
import { decode, encode, type DecodedPng } from 'fast-png';

/**
 * Values of a PNG as one number each: below 8 bits several share a byte, and each row starts with a byte of its own.
 */
function unpacked({ width, height, depth, channels, data }: DecodedPng): DecodedPng['data'] {
  if (depth >= 8) return data;
  const result = new Uint8Array(width * height * channels);
  const stride = Math.ceil((width * channels * depth) / 8);
  const perByte = 8 / depth;
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width * channels; x++) {
      const byte = data[y * stride + Math.floor(x / perByte)] ?? 0;
      result[y * width * channels + x] = (byte >> (8 - depth * ((x % perByte) + 1))) & ((1 << depth) - 1);
    }
  }
  return result;
}

/** A PNG's pixels as red, green, blue, alpha; 16 bits stay 16, fewer than 8 become 8. */
export function decodePng(bytes: Uint8Array): { image: PixelImage; channels: number } {
  const png = decode(bytes, { checkCrc: true });
  const { width, height, depth, palette, transparency } = png;
  const values = unpacked(png);
  const count = width * height;
  if (palette) {
    const data = new Uint8Array(count * 4);
    for (let i = 0; i < count; i++) {
      const [r = 0, g = 0, b = 0, a = 255] = palette[values[i]!] ?? [];
      data.set([r, g, b, a], i * 4);
    }
    return { image: { width, height, data }, channels: palette.some((c) => c.length > 3 && c[3] !== 255) ? 4 : 3 };
  }
  const { channels } = png;
  const most = depth === 16 ? 65535 : 255;
  const scale = depth < 8 ? 255 / ((1 << depth) - 1) : 1;
  const data = depth === 16 ? new Uint16Array(count * 4) : new Uint8Array(count * 4);
  const grey = channels < 3;
  // One colour may stand for "clear" in a picture without alpha.
  const clear = transparency && [...transparency];
  for (let i = 0; i < count; i++) {
    const at = i * channels;
    const [r, g, b] = [values[at]!, values[at + (grey ? 0 : 1)]!, values[at + (grey ? 0 : 2)]!];
    data[i * 4] = r * scale;
    data[i * 4 + 1] = g * scale;
    data[i * 4 + 2] = b * scale;
    const keyed = clear?.[0] === r && (grey || (clear[1] === g && clear[2] === b));
    data[i * 4 + 3] = channels === 2 || channels === 4 ? values[at + channels - 1]! : keyed ? 0 : most;
  }
  return { image: { width, height, data }, channels: clear && channels < 4 ? channels + 1 : channels };
}

/**
 * A PNG file (ISO/IEC 15948) of an image, 8 or 16 bits a channel; without alpha where all of it is solid. The same
 * pixels give the same bytes.
 */
export function encodePixels(image: PixelImage): Uint8Array<ArrayBuffer> {
  const { width, height, data } = image;
  const wide = data instanceof Uint16Array;
  const most = wide ? 65535 : 255;
  let solid = true;
  for (let i = 3; i < data.length && solid; i += 4) solid = data[i] === most;
  const depth = wide ? 16 : 8;
  if (!solid) return new Uint8Array(encode({ width, height, data, depth, channels: 4 }, { zlib: { level: 6 } }));
  const kept = wide ? new Uint16Array((data.length / 4) * 3) : new Uint8Array((data.length / 4) * 3);
  for (let i = 0, to = 0; i < data.length; i += 4) {
    kept[to++] = data[i]!;
    kept[to++] = data[i + 1]!;
    kept[to++] = data[i + 2]!;
  }
  return new Uint8Array(encode({ width, height, data: kept, depth, channels: 3 }, { zlib: { level: 6 } }));
}
