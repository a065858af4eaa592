import { createHash } from 'node:crypto';
import { deflateSync } from 'node:zlib';
import type { PackageHost, PackageImage } from '@estela/core';
import { zipSync } from 'fflate';
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

/** A zip of files by name: in their order, all of 1980-01-01, so that the same files give the same bytes. */
export const zipOf = (files: ReadonlyMap<string, Uint8Array>): Uint8Array<ArrayBuffer> =>
  // The format keeps the time of day without a zone: this is the first it can tell.
  zipSync(Object.fromEntries(files), { level: 6, mtime: new Date(1980, 0, 1) });
