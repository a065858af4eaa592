import { constants, deflateRawSync, inflateRawSync } from 'node:zlib';
import { adlerOf, type Band, type DeflateBand, type NamedPiece } from '@estela/core';
import { Zip, ZipPassThrough, zipSync } from 'fflate';

/** Compresses the bands of bakes, at the level at which time and size are in balance. */
export const deflateBand: DeflateBand = (bytes, last) =>
  new Uint8Array(deflateRawSync(bytes, { level: 6, finishFlush: last ? constants.Z_FINISH : constants.Z_SYNC_FLUSH }));

/** How a stretch ends that more may follow (RFC 1951, an empty stored block). */
const FLUSHED = [0x00, 0x00, 0xff, 0xff];

/** What is wrong with a band, in words that follow it; undefined where it is whole. `last` as it was compressed. */
export function bandFault({ bytes, length, adler }: Band, last: boolean): string | undefined {
  if (!last && !FLUSHED.every((byte, i) => bytes.at(i - FLUSHED.length) === byte)) return 'is cut off';
  const finishFlush = last ? constants.Z_FINISH : constants.Z_SYNC_FLUSH;
  try {
    const plain = inflateRawSync(bytes, { finishFlush, maxOutputLength: length + 1 });
    if (plain.length !== length) return `has ${String(plain.length)} bytes, not ${String(length)}`;
    return adlerOf(plain) === adler ? undefined : 'is not what its checksum says';
  } catch {
    return 'cannot be decompressed';
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
