/** Compresses bytes into a zlib stream (RFC 1950); the host's own. */
export type Deflate = (bytes: Uint8Array) => Uint8Array;

export interface RgbaPicture {
  readonly width: number;
  readonly height: number;
  /** 8 bits a channel, rows from the top, straight alpha. */
  readonly data: Uint8Array;
}

const SIGNATURE = [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a];

const CRC_TABLE = Uint32Array.from({ length: 256 }, (_, n) => {
  let c = n;
  for (let k = 0; k < 8; k++) c = (c & 1) === 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
  return c;
});

function crc(bytes: Uint8Array): number {
  let c = 0xffffffff;
  for (const byte of bytes) c = CRC_TABLE[(c ^ byte) & 0xff]! ^ (c >>> 8);
  return (c ^ 0xffffffff) >>> 0;
}

function chunk(type: string, ...parts: readonly (Uint8Array | readonly number[])[]): Uint8Array {
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

const u32 = (value: number): number[] => [(value >>> 24) & 255, (value >>> 16) & 255, (value >>> 8) & 255, value & 255];
const u16 = (value: number): number[] => [(value >>> 8) & 255, value & 255];

function concatenate(parts: readonly (Uint8Array | readonly number[])[]): Uint8Array<ArrayBuffer> {
  const bytes = new Uint8Array(parts.reduce((n, p) => n + p.length, 0));
  let at = 0;
  for (const part of parts) {
    bytes.set(part, at);
    at += part.length;
  }
  return bytes;
}

/** Rows before compression, each filtered by the difference to the row above (filter 2), the first by none. */
function filtered({ width, height, data }: RgbaPicture): Uint8Array {
  const stride = width * 4;
  const rows = new Uint8Array((stride + 1) * height);
  for (let y = 0; y < height; y++) {
    const at = y * (stride + 1);
    rows[at] = y === 0 ? 0 : 2;
    for (let x = 0; x < stride; x++)
      rows[at + 1 + x] = data[y * stride + x]! - (y === 0 ? 0 : data[(y - 1) * stride + x]!);
  }
  return rows;
}

const header = ({ width, height }: RgbaPicture): Uint8Array => chunk('IHDR', u32(width), u32(height), [8, 6, 0, 0, 0]);
/** sRGB, perceptual. */
const colours = (): Uint8Array => chunk('sRGB', [0]);
const end = (): Uint8Array => chunk('IEND');

/** A PNG file (ISO/IEC 15948). `linear` leaves out the mark that the values are sRGB. */
export function encodePng(picture: RgbaPicture, deflate: Deflate, linear = false): Uint8Array<ArrayBuffer> {
  return concatenate([
    SIGNATURE,
    header(picture),
    ...(linear ? [] : [colours()]),
    chunk('IDAT', deflate(filtered(picture))),
    end(),
  ]);
}

/**
 * An animated PNG (PNG 3rd edition, animation chunks) that plays its frames in order for ever, each for
 * `num / den` seconds. Readers without animation show the first frame.
 */
export function encodeApng(
  frames: readonly RgbaPicture[],
  delay: { readonly num: number; readonly den: number },
  deflate: Deflate,
): Uint8Array<ArrayBuffer> {
  const [first] = frames;
  if (!first) throw new RangeError('an animation has at least one frame');
  let sequence = 0;
  const control = ({ width, height }: RgbaPicture): Uint8Array =>
    chunk('fcTL', u32(sequence++), u32(width), u32(height), u32(0), u32(0), u16(delay.num), u16(delay.den), [0, 0]);
  const parts: Uint8Array[] = [header(first), colours(), chunk('acTL', u32(frames.length), u32(0))];
  frames.forEach((frame, i) => {
    parts.push(control(frame));
    const data = deflate(filtered(frame));
    parts.push(i === 0 ? chunk('IDAT', data) : chunk('fdAT', u32(sequence++), data));
  });
  return concatenate([SIGNATURE, ...parts, end()]);
}

/** Puts frames side by side, row by row from the top left, as `flipbook` reads them. */
export function sheetOf(frames: readonly RgbaPicture[], columns: number): RgbaPicture {
  const { width, height } = frames[0] ?? { width: 1, height: 1 };
  const rows = Math.ceil(frames.length / columns);
  const data = new Uint8Array(width * columns * height * rows * 4);
  frames.forEach((frame, i) => {
    const [left, top] = [(i % columns) * width, Math.floor(i / columns) * height];
    for (let y = 0; y < height; y++)
      data.set(frame.data.subarray(y * width * 4, (y + 1) * width * 4), ((top + y) * width * columns + left) * 4);
  });
  return { width: width * columns, height: height * rows, data };
}
