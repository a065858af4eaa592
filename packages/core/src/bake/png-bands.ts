import {
  animation,
  chunk,
  colours,
  concatenate,
  end,
  filtered,
  frameControl,
  header,
  SIGNATURE,
  u32,
  type Delay,
} from './png-chunks.ts';

/**
 * Compresses bytes into a raw deflate stream (RFC 1951) that ends at a byte; `last` ends the whole, any other may be
 * followed by more.
 */
export type DeflateBand = (bytes: Uint8Array, last: boolean) => Uint8Array<ArrayBuffer>;

/** Some rows of a picture, compressed by themselves: a picture's bands may be made in any order, by anyone. */
export interface Band {
  readonly bytes: Uint8Array<ArrayBuffer>;
  /** Adler-32 (RFC 1950) of what was compressed, and how many bytes that was. */
  readonly adler: number;
  readonly length: number;
}

const MODULUS = 65521;

function adlerOf(bytes: Uint8Array): number {
  let [a, b] = [1, 0];
  // As many as can be added before the sums pass 32 bits.
  for (let start = 0; start < bytes.length; start += 3800) {
    const last = Math.min(bytes.length, start + 3800);
    for (let i = start; i < last; i++) {
      a += bytes[i]!;
      b += a;
    }
    a %= MODULUS;
    b %= MODULUS;
  }
  return ((b << 16) | a) >>> 0;
}

/** Adler-32 of two stretches after each other, from that of each and the length of the second. */
function adlerJoined(first: number, second: number, length: number): number {
  const [a1, b1, a2, b2] = [first & 0xffff, first >>> 16, second & 0xffff, second >>> 16];
  // The second began with a = 1 where it goes on with a1: each of its bytes adds the difference to b once.
  const a = (a1 + a2 - 1 + MODULUS) % MODULUS;
  const b = (b1 + b2 + (length % MODULUS) * (a1 - 1 + MODULUS)) % MODULUS;
  return ((b << 16) | a) >>> 0;
}

/**
 * Compresses rows of RGBA, of `pixel` bytes each: each row filtered by the difference to the row above (filter 2), the first, which does not
 * know it, to the pixel at its left (filter 1).
 */
export function bandOf(
  data: Uint8Array,
  { width, pixel }: { readonly width: number; readonly pixel: number },
  last: boolean,
  deflate: DeflateBand,
): Band {
  const stride = width * pixel;
  const rows = filtered(data, stride, pixel);
  return { bytes: deflate(rows, last), adler: adlerOf(rows), length: rows.length };
}

export interface PngOptions {
  readonly width: number;
  readonly height: number;
  /** Bits a channel; 8 where nothing is said. */
  readonly bits?: 8 | 16;
  /** Leaves out the mark that the values are sRGB. */
  readonly linear?: boolean;
  /** Makes it an animation of so many frames. */
  readonly frames?: { readonly count: number; readonly delay: Delay };
}

/** Writes a PNG from its bands, in order, as they come: what it gives is written one after the other. */
export class PngWriter {
  #sequence = 0;
  #frame = 0;
  #adler: number | undefined;

  constructor(readonly options: PngOptions) {}

  /** What the file begins with. */
  start(): Uint8Array<ArrayBuffer> {
    const { linear = false, frames } = this.options;
    return concatenate([
      SIGNATURE,
      header(this.options, this.options.bits),
      ...(linear ? [] : [colours()]),
      ...(frames ? [animation(frames.count)] : []),
    ]);
  }

  /** The next band; `last` is the last of its picture, or of the frame. */
  band({ bytes, adler, length }: Band, last: boolean): Uint8Array<ArrayBuffer> {
    const { frames } = this.options;
    const begins = this.#adler === undefined;
    this.#adler = this.#adler === undefined ? adler : adlerJoined(this.#adler, adler, length);
    // Deflate with a window of 32 KiB (RFC 1950): what a band refers to lies within it.
    const data = [...(begins ? [[0x78, 0x9c]] : []), bytes, ...(last ? [u32(this.#adler)] : [])];
    const control = frames && begins ? [frameControl(this.#sequence++, this.options, frames.delay)] : [];
    const written = concatenate([
      ...control,
      this.#frame === 0 ? chunk('IDAT', ...data) : chunk('fdAT', u32(this.#sequence++), ...data),
    ]);
    if (last) {
      this.#adler = undefined;
      this.#frame++;
    }
    return written;
  }

  /** What the file ends with. */
  end(): Uint8Array<ArrayBuffer> {
    return concatenate([end()]);
  }
}
