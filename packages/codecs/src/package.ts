import { createHash } from 'node:crypto';
import { deflateSync } from 'node:zlib';
import type { PackageHost, PackageImage } from '@estela/core';
import type { Decoder } from './decode.ts';
import { encodePixels } from './png.ts';

/** What Node lends to a package; `player` is the built page of packages/player. */
export const packageHost = (player: string): PackageHost => ({
  player,
  deflate: (bytes) => deflateSync(bytes, { level: 9 }),
  sha256: (bytes) => createHash('sha256').update(bytes).digest('hex'),
  base64: (bytes) => Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength).toString('base64'),
  utf8: (text) => Buffer.from(text, 'utf8'),
  png: encodePixels,
});

/** An image file as a package takes it. Throws ImageRefused where it cannot be read. */
export async function packageImage(decoder: Decoder, bytes: Uint8Array): Promise<PackageImage> {
  const { width, height, data, header } = await decoder.decode(bytes);
  return { width, height, data, bytes, type: header.type };
}
