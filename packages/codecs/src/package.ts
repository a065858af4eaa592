import { createHash } from 'node:crypto';
import { constants, deflateRawSync, deflateSync } from 'node:zlib';
import type { DeflateBand, NamedPiece, PackageHost, PackageImage } from '@estela/core';
import { Zip, ZipPassThrough, zipSync } from 'fflate';
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

/** Compresses the bands of bakes, at the level at which time and size are in balance. */
export const deflateBand: DeflateBand = (bytes, last) =>
  new Uint8Array(deflateRawSync(bytes, { level: 6, finishFlush: last ? constants.Z_FINISH : constants.Z_SYNC_FLUSH }));

// The format keeps the time of day without a zone: this is the first it can tell.
const MOMENT = new Date(1980, 0, 1);

/** A zip of files by name: in their order, all of 1980-01-01, so that the same files give the same bytes. */
export const zipOf = (files: ReadonlyMap<string, Uint8Array>): Uint8Array<ArrayBuffer> =>
  zipSync(Object.fromEntries(files), { level: 6, mtime: MOMENT });

/** A zip of files that come one after the other, in pieces; they stay as they are, and are compressed already. */
export async function* zipped(pieces: AsyncIterable<NamedPiece>): AsyncGenerator<Uint8Array> {
  let ready: Uint8Array[] = [];
  const zip = new Zip((error, data) => {
    if (error) throw error;
    ready.push(data);
  });
  let file: ZipPassThrough | undefined;
  for await (const { name, bytes, last } of pieces) {
    if (!file) {
      file = new ZipPassThrough(name);
      file.mtime = MOMENT;
      zip.add(file);
    }
    file.push(bytes, last);
    if (last) file = undefined;
    yield* ready;
    ready = [];
  }
  zip.end();
  yield* ready;
}
