import { constants, deflateRawSync, inflateSync } from 'node:zlib';
import type { Band, DeflateBand, NamedPiece } from '@estela/core';
import { bandFlaws } from './wording.ts';
import { Zip, ZipPassThrough, zipSync } from 'fflate';

/** Compresses the bands of bakes, at the level at which time and size are in balance. */
export const deflateBand: DeflateBand = (bytes, last) =>
  new Uint8Array(deflateRawSync(bytes, { level: 6, finishFlush: last ? constants.Z_FINISH : constants.Z_SYNC_FLUSH }));

/** An empty block at a byte's edge (RFC 1951): ends a stream to which more could be added. */
const END = [0x01, 0x00, 0x00, 0xff, 0xff];

/**
 * What is wrong with a band, in words that follow it; undefined where it is whole. `last` as it was compressed. It is
 * read as a zlib stream (RFC 1950) of itself alone, whose checksum it then must have.
 */
export function bandFault({ bytes, length, adler }: Band, last: boolean): string | undefined {
  const checksum = [24, 16, 8, 0].map((shift) => (adler >>> shift) & 0xff);
  const stream = Buffer.concat([
    Uint8Array.of(0x78, 0x9c),
    bytes,
    Uint8Array.from(last ? checksum : [...END, ...checksum]),
  ]);
  try {
    const plain = inflateSync(stream, { maxOutputLength: length + 1 });
    return plain.length === length ? undefined : bandFlaws.length(plain.length, length);
  } catch {
    return bandFlaws.checksum;
  }
}

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
