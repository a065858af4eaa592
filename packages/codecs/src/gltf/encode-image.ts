import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { deflateSync } from 'node:zlib';
import { encodePng, type GltfImageType, type GltfPicture } from '@estela/core';
import encodeJpeg, { init as initJpeg } from '@jsquash/jpeg/encode.js';
import encodeWebp, { init as initWebp } from '@jsquash/webp/encode.js';

export interface EncodedImage {
  readonly bytes: Uint8Array<ArrayBuffer>;
  readonly mime: 'image/png' | 'image/jpeg' | 'image/webp';
}

const FILES = {
  jpeg: '@jsquash/jpeg/codec/enc/mozjpeg_enc.wasm',
  webp: '@jsquash/webp/codec/enc/webp_enc_simd.wasm',
} as const;
const started = new Map<keyof typeof FILES, Promise<unknown>>();

/** Starts an encoder once. */
function start(type: keyof typeof FILES): Promise<unknown> {
  let starting = started.get(type);
  if (!starting) {
    starting = (async () => {
      const module = await WebAssembly.compile(await readFile(createRequire(import.meta.url).resolve(FILES[type])));
      await (type === 'jpeg' ? initJpeg : initWebp)(module);
    })();
    started.set(type, starting);
  }
  return starting;
}

/** JPEG has no alpha, and blurs numbers that are no colours: those stay PNG. */
const suits = ({ isColor, data }: GltfPicture): boolean => {
  for (let i = 3; i < data.length; i += 4) if (data[i] !== 255) return false;
  return isColor;
};

/** Writes a picture as a file: numbers that are no colours without any loss. */
export async function encodeImage(picture: GltfPicture, type: GltfImageType): Promise<EncodedImage> {
  const { width, height, data, isColor } = picture;
  const pixels = { width, height, data: new Uint8ClampedArray(data.buffer, data.byteOffset, data.length) };
  if (type === 'webp') {
    await start('webp');
    // Exact where it is lossless: colours under clear pixels stay.
    const options = isColor ? { quality: 90, exact: 1 } : { lossless: 1, exact: 1 };
    return { bytes: new Uint8Array(await encodeWebp(pixels as ImageData, options)), mime: 'image/webp' };
  }
  if (type === 'jpeg' && suits(picture)) {
    await start('jpeg');
    return { bytes: new Uint8Array(await encodeJpeg(pixels as ImageData, { quality: 92 })), mime: 'image/jpeg' };
  }
  return { bytes: encodePng(picture, (bytes) => deflateSync(bytes, { level: 6 }), !isColor), mime: 'image/png' };
}
