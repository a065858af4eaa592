import { createHash } from 'node:crypto';
import { bandFault } from '@estela/codecs/files';
import type { Band } from '@estela/core';
import { why } from '../../http/wording.ts';

/** Bytes before each band: its Adler-32, its length before it was compressed, and after it, as 32 bits each. */
const HEAD = 12;

/** A chunk's bands as they go over the wire: in order, each after its head, numbers big-endian. */
export function packBands(bands: readonly Band[]): Buffer<ArrayBuffer> {
  const out = Buffer.alloc(bands.reduce((sum, { bytes }) => sum + HEAD + bytes.length, 0));
  let at = 0;
  for (const { adler, length, bytes } of bands) {
    for (const number of [adler, length, bytes.length]) at = out.writeUInt32BE(number, at);
    out.set(bytes, at);
    at += bytes.length;
  }
  return out;
}

/** A band as a plan has it: its bytes before it is compressed, and whether it ends a picture. */
export interface ExpectedBand {
  readonly length: number;
  readonly last: boolean;
}

/** Most bytes that such bands come to: what cannot be compressed grows a little. */
export const mostBytes = (expected: readonly ExpectedBand[]): number =>
  expected.reduce((sum, { length }) => sum + HEAD + 64 + length + Math.ceil(length / 1000), 0);

/** Reads the bands that are expected. Throws with what is wrong with them. */
export function unpackBands(packed: Uint8Array, expected: readonly ExpectedBand[]): Band[] {
  const view = new DataView(packed.buffer, packed.byteOffset, packed.byteLength);
  let at = 0;
  const bands = expected.map(({ length, last }, i): Band => {
    const wrong = (flaw: string): Error => new Error(why.wrongBand(i, flaw));
    if (at + HEAD > packed.length) throw wrong(why.bandMissing);
    const [adler, told, size] = [0, 4, 8].map((offset) => view.getUint32(at + offset)) as [number, number, number];
    if (told !== length) throw wrong(why.bandLength(told, length));
    at += HEAD;
    if (at + size > packed.length) throw wrong(why.bandCutOff);
    // Memory of its own, so that it can be handed over.
    const band = { adler, length, bytes: Uint8Array.from(packed.subarray(at, at + size)) };
    at += size;
    const fault = bandFault(band, last);
    if (fault !== undefined) throw wrong(fault);
    return band;
  });
  if (at !== packed.length) throw new Error(why.bytesLeftOver);
  return bands;
}

/** The field `Content-Digest` of some bytes (RFC 9530). */
export const digestOf = (bytes: Uint8Array): string =>
  `sha-256=:${createHash('sha256').update(bytes).digest('base64')}:`;
