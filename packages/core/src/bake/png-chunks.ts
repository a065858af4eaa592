/** The parts of a PNG file (ISO/IEC 15948), and of an animated one (PNG 3rd edition). */
export type Bytes = Uint8Array | readonly number[];

export const SIGNATURE = [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a];

/** What a byte does to a CRC-32, followed by k = 0 to 3 more bytes of zero, at 256 k + byte. */
const CRC = new Int32Array(4 * 256);
for (let byte = 0; byte < 256; byte++) {
  let c = byte;
  for (let bits = 1; bits <= 32; bits++) {
    c = (c & 1) === 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
    if (bits % 8 === 0) CRC[(bits / 8 - 1) * 256 + byte] = c;
  }
}

/** CRC-32 of bytes, four at a time ("slicing", Kounavis and Berry 2005). */
function crc(bytes: Uint8Array): number {
  let c = -1;
  let i = 0;
  for (; i < bytes.length - 3; i += 4) {
    c ^= bytes[i]! | (bytes[i + 1]! << 8) | (bytes[i + 2]! << 16) | (bytes[i + 3]! << 24);
    c = CRC[768 + (c & 255)]! ^ CRC[512 + ((c >>> 8) & 255)]! ^ CRC[256 + ((c >>> 16) & 255)]! ^ CRC[c >>> 24]!;
  }
  for (; i < bytes.length; i++) c = CRC[(c ^ bytes[i]!) & 255]! ^ (c >>> 8);
  return ~c >>> 0;
}

export function chunk(type: string, ...parts: readonly Bytes[]): Uint8Array {
  const length = parts.reduce((n, p) => n + p.length, 0);
  const bytes = new Uint8Array(length + 12);
  const view = new DataView(bytes.buffer);
  view.setUint32(0, length);
  for (let i = 0; i < 4; i++) bytes[4 + i] = type.charCodeAt(i);
  let at = 8;
  for (const part of parts) {
    bytes.set(part, at);
    at += part.length;
  }
  view.setUint32(at, crc(bytes.subarray(4, at)));
  return bytes;
}

export const u32 = (value: number): number[] => [
  (value >>> 24) & 255,
  (value >>> 16) & 255,
  (value >>> 8) & 255,
  value & 255,
];
export const u16 = (value: number): number[] => [(value >>> 8) & 255, value & 255];

export function concatenate(parts: readonly Bytes[]): Uint8Array<ArrayBuffer> {
  const bytes = new Uint8Array(parts.reduce((n, p) => n + p.length, 0));
  let at = 0;
  for (const part of parts) {
    bytes.set(part, at);
    at += part.length;
  }
  return bytes;
}

/** RGBA of so many bits a channel; width and height in pixels. */
export const header = (
  { width, height }: { readonly width: number; readonly height: number },
  bits: 8 | 16 = 8,
): Uint8Array => chunk('IHDR', u32(width), u32(height), [bits, 6, 0, 0, 0]);
/** sRGB, perceptual. */
export const colours = (): Uint8Array => chunk('sRGB', [0]);
export const end = (): Uint8Array => chunk('IEND');
/**
 * Rows before compression, each filtered by the difference to the row above (filter 2). The first knows none: it is
 * filtered to the pixel at its left (filter 1), `left` bytes away, or not at all where that is not given. Rows and pixels
 * are of whole words of four bytes.
 */
export function filtered(data: Uint8Array, stride: number, left?: number): Uint8Array<ArrayBuffer> {
  const height = data.length / stride;
  const width = stride / 4;
  const rows = new Uint8Array((stride + 1) * height);
  // Four bytes at a time: they begin where words do.
  const own = data.byteOffset % 4 === 0 ? data : data.slice();
  const words = new Int32Array(own.buffer, own.byteOffset, own.length / 4);
  const row = new Int32Array(width);
  const bytes = new Uint8Array(row.buffer);
  for (let y = 0; y < height; y++) {
    const from = y * width;
    const [back, skipped] = y > 0 ? [width, 0] : [(left ?? 0) / 4, left === undefined ? width : left / 4];
    rows[y * (stride + 1)] = y > 0 ? 2 : left === undefined ? 0 : 1;
    for (let x = 0; x < skipped; x++) row[x] = words[from + x]!;
    for (let x = skipped; x < width; x++) row[x] = bytesApart(words[from + x]!, words[from + x - back]!);
    rows.set(bytes, y * (stride + 1) + 1);
  }
  return rows;
}

/** The differences of the four bytes of two words: no borrow passes from one to the next. */
const bytesApart = (a: number, b: number): number => ((a | 0x80808080) - (b & 0x7f7f7f7f)) ^ ((a ^ ~b) & 0x80808080);

export interface Delay {
  /** A frame lasts num / den seconds. */
  readonly num: number;
  readonly den: number;
}
/** Says how many frames there are; they play for ever. */
export const animation = (frames: number): Uint8Array => chunk('acTL', u32(frames), u32(0));
/** Begins a frame that covers the whole picture; `sequence` counts the chunks of the animation. */
export const frameControl = (
  sequence: number,
  { width, height }: { readonly width: number; readonly height: number },
  { num, den }: Delay,
): Uint8Array => chunk('fcTL', u32(sequence), u32(width), u32(height), u32(0), u32(0), u16(num), u16(den), [0, 0]);
