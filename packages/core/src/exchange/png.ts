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
} from '../bake/png-chunks.ts';

/** Compresses bytes into a zlib stream (RFC 1950); the host's own. */
export type Deflate = (bytes: Uint8Array) => Uint8Array;

export interface RgbaPicture {
  readonly width: number;
  readonly height: number;
  /** 8 bits a channel, rows from the top, straight alpha. */
  readonly data: Uint8Array;
}

/** A PNG file (ISO/IEC 15948). `linear` leaves out the mark that the values are sRGB. */
export function encodePng(picture: RgbaPicture, deflate: Deflate, linear = false): Uint8Array<ArrayBuffer> {
  return concatenate([
    SIGNATURE,
    header(picture),
    ...(linear ? [] : [colours()]),
    chunk('IDAT', deflate(filtered(picture.data, picture.width * 4))),
    end(),
  ]);
}

/**
 * An animated PNG (PNG 3rd edition, animation chunks) that plays its frames in order for ever, each for
 * `num / den` seconds. Readers without animation show the first frame.
 */
export function encodeApng(frames: readonly RgbaPicture[], delay: Delay, deflate: Deflate): Uint8Array<ArrayBuffer> {
  const [first] = frames;
  if (!first) throw new RangeError('an animation needs at least one frame');
  let sequence = 0;
  const parts: Uint8Array[] = [header(first), colours(), animation(frames.length)];
  frames.forEach((frame, i) => {
    parts.push(frameControl(sequence++, frame, delay));
    const data = deflate(filtered(frame.data, frame.width * 4));
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
