import { bandOf, type Band, type DeflateBand } from './png-bands.ts';
import type { Baker } from './bake.ts';
import { PLAIN, spreadColor, type CellOptions } from './cells.ts';

/** Frames side by side as one picture, row by row from the top left, as `flipbook` reads them. */
export interface Layout {
  readonly columns: number;
  readonly frames: readonly number[];
}

/** Rows of a picture that are baked at once: its place among the pictures, from `first` up to `end`. */
export interface BandPlace {
  readonly picture: number;
  readonly first: number;
  readonly end: number;
  /** The last of its picture. */
  readonly last: boolean;
}

/** Bytes of a band before it is compressed, about: small against the whole, large against what begins each. */
const BAND_BYTES = 1024 * 1024;

interface Size {
  readonly width: number;
  readonly height: number;
}

/** A frame with what is repeated around it, in pixels. */
const cellSize = ({ width, height }: Size, { bleed }: CellOptions): Size => ({
  width: width + 2 * bleed,
  height: height + 2 * bleed,
});

const powerOfTwo = (side: number): number => 2 ** Math.ceil(Math.log2(side));

/** Width and height of a picture, in pixels; `size` is a frame's. */
export function pictureSize({ columns, frames }: Layout, size: Size, cells = PLAIN): Size {
  const cell = cellSize(size, cells);
  const [width, height] = [cell.width * columns, cell.height * Math.ceil(frames.length / columns)];
  return cells.powerOfTwo ? { width: powerOfTwo(width), height: powerOfTwo(height) } : { width, height };
}

/** Where the frame at a place of a picture lies in it, in pixels, without what is repeated around it. */
export function frameAt(
  { columns }: Pick<Layout, 'columns'>,
  place: number,
  size: Size,
  cells = PLAIN,
): {
  readonly x: number;
  readonly y: number;
} {
  const cell = cellSize(size, cells);
  return {
    x: (place % columns) * cell.width + cells.bleed,
    y: Math.floor(place / columns) * cell.height + cells.bleed,
  };
}

/**
 * The bands of pictures, in order. They are the same whoever bakes them, and so is what comes of them. Where colour is
 * spread a band is a row of cells: each frame is needed whole.
 */
export function bandsOf(
  pictures: readonly Layout[],
  size: Size & { readonly bits?: 8 | 16 },
  cells = PLAIN,
): BandPlace[] {
  return pictures.flatMap((layout, picture) => {
    const { width, height } = pictureSize(layout, size, cells);
    const stride = width * (size.bits === 16 ? 8 : 4);
    const rows = cells.spread ? cellSize(size, cells).height : Math.max(1, Math.floor(BAND_BYTES / stride));
    const count = Math.ceil(height / rows);
    return Array.from({ length: count }, (_, i) => ({
      picture,
      first: i * rows,
      end: Math.min(height, (i + 1) * rows),
      last: i === count - 1,
    }));
  });
}

/** Bakes and compresses a band: the one piece of work of which all baking is made. */
export function bakeBand(
  baker: Baker,
  pictures: readonly Layout[],
  place: BandPlace,
  deflate: DeflateBand,
  cells = PLAIN,
): Band {
  const { width } = pictureSize(pictures[place.picture]!, baker.options, cells);
  const data = bandPixels(baker, pictures, place, cells);
  return bandOf(data, { width, pixel: baker.bytesPerPixel }, place.last, deflate);
}

/** Rows of a picture, as a Baker's rows are. */
export function bandPixels(
  baker: Baker,
  pictures: readonly Layout[],
  { picture, first, end }: Omit<BandPlace, 'last'>,
  cells = PLAIN,
): Uint8Array<ArrayBuffer> {
  const { columns, frames } = pictures[picture]!;
  const { width, height, bits = 8 } = baker.options;
  const pixel = baker.bytesPerPixel;
  const { bleed, spread } = cells;
  const cell = cellSize(baker.options, cells);
  const whole = pictureSize({ columns, frames }, baker.options, cells);
  const stride = whole.width * pixel;
  const data = new Uint8Array(stride * (end - first));
  const within = (v: number, most: number): number => Math.min(Math.max(v, 0), most);
  for (let y = first; y < end;) {
    const row = Math.floor(y / cell.height);
    const until = Math.min(end, (row + 1) * cell.height);
    // Rows of the frame itself; those of its bleed repeat the nearest.
    const rowOf = (at: number): number => within(at - row * cell.height - bleed, height - 1);
    const [top, bottom] = [rowOf(y), rowOf(until - 1) + 1];
    for (let column = 0; column < columns; column++) {
      const frame = frames[row * columns + column];
      // Beyond the last frame all is clear.
      if (frame === undefined) break;
      const part = baker.rows(frame, top, bottom);
      if (spread) spreadColor(part, width, height, bits);
      for (let at = y; at < until; at++) {
        const from = (rowOf(at) - top) * width * pixel;
        const line = part.subarray(from, from + width * pixel);
        const to = (at - first) * stride + column * cell.width * pixel;
        data.set(line, to + bleed * pixel);
        for (let b = 0; b < bleed; b++) {
          data.set(line.subarray(0, pixel), to + b * pixel);
          data.set(line.subarray((width - 1) * pixel), to + (bleed + width + b) * pixel);
        }
      }
    }
    y = until;
  }
  return data;
}
