import type { Program } from '../check/program.ts';
import type { SettingValues } from '../check/values.ts';
import type { ImageSource } from '../image/pixels.ts';
import { fromSrgb, srgbByte } from '../ops/srgb.ts';
import { Baker } from './bake.ts';

/** How far pictures are apart, in steps of 255 of the furthest channel of each pixel, colours as they are shown over black. */
export interface Difference {
  /** Over all pixels and moments. */
  readonly mean: number;
  readonly largest: number;
}

/** A flipbook of so many frames against the live material, at moments between its frames. */
export interface FrameChoice {
  readonly count: number;
  /** Each frame stays until the next. */
  readonly held: Difference;
  /** Neighbours are mixed in linear light, by how far the moment is from each. */
  readonly blended: Difference;
}

/** Counts of frames that are measured. */
export const FRAME_CHOICES = [4, 8, 16, 32, 64, 128] as const;
/** Moments that are looked at: one between each two frames of the finest choice. */
const MOMENTS = 2 * FRAME_CHOICES.at(-1)!;

const LIGHT = Float32Array.from({ length: 256 }, (_, byte) => fromSrgb(byte / 255));

/** Sums up how far pixels are apart. */
class Sum {
  #total = 0;
  #pixels = 0;
  #largest = 0;

  add(difference: number): void {
    this.#total += difference;
    this.#pixels++;
    if (difference > this.#largest) this.#largest = difference;
  }

  get result(): Difference {
    return { mean: this.#pixels === 0 ? 0 : this.#total / this.#pixels, largest: this.#largest };
  }
}

type Picture = Uint8Array;

/** The furthest of the four channels of a pixel. */
const apart = (a: ArrayLike<number>, b: ArrayLike<number>, at: number): number =>
  Math.max(
    Math.abs(a[at]! - b[at]!),
    Math.abs(a[at + 1]! - b[at + 1]!),
    Math.abs(a[at + 2]! - b[at + 2]!),
    Math.abs(a[at + 3]! - b[at + 3]!),
  );

/** Two pictures mixed in linear light, `share` of the second. */
function mixed(a: Picture, b: Picture, share: number, into: Picture): Picture {
  for (let i = 0; i < a.length; i++)
    into[i] =
      i % 4 === 3
        ? Math.round(a[i]! + (b[i]! - a[i]!) * share)
        : srgbByte(LIGHT[a[i]!]! + (LIGHT[b[i]!]! - LIGHT[a[i]!]!) * share);
  return into;
}

/**
 * Measures how near flipbooks of several counts of frames, spread evenly over the loop, come to the live colour, at
 * `size` x `size` pixels. Gives what is done, 0 to 1, and at last the choices. Undefined at once where there is no colour.
 */
export function* enoughFrames(
  program: Program,
  values: SettingValues,
  images: ImageSource,
  size: number,
): Generator<number, readonly FrameChoice[] | undefined> {
  const options = { output: 'color', width: size, height: size, samples: 1, premultiply: true } as const;
  const baker = Baker.of(program, values, options, images, MOMENTS);
  if (!baker) return undefined;
  const live: Picture[] = [];
  for (let i = 0; i < MOMENTS; i++) {
    live.push(baker.frame((i * program.loop.frames) / MOMENTS));
    if (i % 8 === 7) yield ((i + 1) / MOMENTS) * 0.8;
  }
  const scratch = new Uint8Array(size * size * 4);
  const choices: FrameChoice[] = [];
  for (const count of FRAME_CHOICES) {
    const span = MOMENTS / count;
    const [held, blended] = [new Sum(), new Sum()];
    // Moments between frames, at most eight: the picture of a frame itself is right by itself.
    for (let i = 0; i < MOMENTS; i++) {
      const within = i % span;
      if (within === 0 || within % Math.max(1, span / 8) !== 0) continue;
      const first = live[i - within]!;
      const second = live[(i - within + span) % MOMENTS]!;
      const mix = mixed(first, second, within / span, scratch);
      for (let at = 0; at < scratch.length; at += 4) {
        held.add(apart(first, live[i]!, at));
        blended.add(apart(mix, live[i]!, at));
      }
    }
    choices.push({ count, held: held.result, blended: blended.result });
    yield 0.8 + (0.2 * choices.length) / FRAME_CHOICES.length;
  }
  return choices;
}

/** Longest side at which sizes are compared: the time goes with the square. */
const MOST_COMPARED = 1024;

/**
 * How far the colour at half the size, enlarged (bilinear, in linear light), is from that at the whole: four moments of the
 * loop. Of larger sizes, both at a scale that fits. Undefined where there is no colour.
 */
export function halfSize(
  program: Program,
  values: SettingValues,
  images: ImageSource,
  [width, height]: readonly [number, number],
): Difference | undefined {
  const scale = Math.min(1, MOST_COMPARED / Math.max(width, height));
  const half = [width, height].map((side) => Math.max(1, Math.round((side * scale) / 2))) as [number, number];
  const whole = [half[0] * 2, half[1] * 2] as const;
  const at = (w: number, h: number): Baker | undefined =>
    Baker.of(program, values, { output: 'color', width: w, height: h, samples: 1, premultiply: true }, images);
  const [fine, coarse] = [at(...whole), at(...half)];
  if (!fine || !coarse) return undefined;
  const sum = new Sum();
  for (let i = 0; i < 4; i++) {
    const moment = (i * program.loop.frames) / 4;
    const large = fine.frame(moment);
    const enlarged = twice(coarse.frame(moment), ...half);
    for (let p = 0; p < large.length; p += 4) sum.add(apart(large, enlarged, p));
  }
  return sum.result;
}

/** A picture at twice its size, mixed between the centres of its texels; over its edges it repeats. */
function twice(picture: Picture, width: number, height: number): Picture {
  const result = new Uint8Array(width * height * 16);
  for (let y = 0; y < height * 2; y++) {
    // A fine pixel's centre lies a quarter of a texel from the nearest coarse one.
    const [y0, fy] = y % 2 === 0 ? [y / 2 - 1, 0.75] : [(y - 1) / 2, 0.25];
    const rows = [y0, y0 + 1].map((row) => ((row + height) % height) * width);
    for (let x = 0; x < width * 2; x++) {
      const [x0, fx] = x % 2 === 0 ? [x / 2 - 1, 0.75] : [(x - 1) / 2, 0.25];
      const columns = [x0, x0 + 1].map((column) => (column + width) % width);
      for (let c = 0; c < 4; c++) {
        const value = (row: number, column: number): number => {
          const byte = picture[(rows[row]! + columns[column]!) * 4 + c]!;
          return c === 3 ? byte / 255 : LIGHT[byte]!;
        };
        const top = value(0, 0) + (value(0, 1) - value(0, 0)) * fx;
        const bottom = value(1, 0) + (value(1, 1) - value(1, 0)) * fx;
        const mean = top + (bottom - top) * fy;
        result[(y * width * 2 + x) * 4 + c] = c === 3 ? Math.round(mean * 255) : srgbByte(mean);
      }
    }
  }
  return result;
}
