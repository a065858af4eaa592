import { BAKE_SIDE_LIMIT, SAMPLE_LIMIT, type BakeOptions } from '../bake/bake.ts';
import { bandsOf, pictureSize, type BandPlace, type Layout } from '../bake/bands.ts';
import { columnsFor } from '../bake/columns.ts';
import { BLEED_LIMIT, type CellOptions } from '../bake/cells.ts';
import { isSrgb, outputsOf, plainPack, readPack, type Pack } from '../bake/pack.ts';
import type { Delay } from '../bake/png-chunks.ts';
import type { BakeRecipe } from '../bake/recipe.ts';
import { CHANNELS, type Channel, type Loop, type Program, type Surface } from '../check/program.ts';
import { readSettings, type SettingValues } from '../check/values.ts';
import { compile } from '../compile.ts';
import { packageName } from './package/identifier.ts';
import { reasons } from '../diagnostics/reasons.ts';

/** Why a recipe cannot be baked, in a sentence. */
export class BakeRefused extends Error {}

/** Most frames of one bake. */
export const BAKE_FRAME_LIMIT = 4096;
/** Most samples of one bake, of all frames together: hours of a machine's work. */
export const BAKE_WORK_LIMIT = 2 ** 35;
/** Longest side of a sheet, in pixels. */
export const SHEET_SIDE_LIMIT = 16384;

/** Most bytes of a row of frames whose colour is spread: it is made at once. */
const SPREAD_LIMIT = 64 * 1024 ** 2;

/** Samples of a chunk, about: a second or less. */
const CHUNK_SAMPLES = 2 ** 19;

/** One picture, or a run of them, that shows the same: an output or a packing. */
export interface BakeImage {
  /** What it shows: an output's name, or `packed`. */
  readonly name: string;
  readonly pack: Pack;
  readonly options: BakeOptions;
}

/** A band, and which image it is of. */
export interface BakeBand extends BandPlace {
  readonly image: number;
}

/** A file that is made of bands. */
export interface BakeFile {
  readonly name: string;
  readonly image: number;
  /** Its pictures among those of its image: the frames of an animation, or one. */
  readonly first: number;
  readonly count: number;
  /** In pixels. */
  readonly width: number;
  readonly height: number;
  /** How long a frame of an animation lasts. */
  readonly delay?: Delay;
}

/** Bands that are baked in one go, from `first` up to `end`. */
export interface BakeChunk {
  readonly first: number;
  readonly end: number;
}

/** A recipe worked out for a material: all that is made, in order. The same for the same input, wherever it is made. */
export interface BakePlan {
  readonly recipe: BakeRecipe;
  /** What its files are called. */
  readonly name: string;
  readonly loop: Loop;
  readonly surface: Surface;
  readonly values: SettingValues;
  /** Moments in frames of the loop, also between two. */
  readonly frames: readonly number[];
  /** Frames a second with which they play; undefined where they are not evenly spaced. */
  readonly rate: number | undefined;
  /** They are the whole loop: after the last comes the first. */
  readonly closes: boolean;
  readonly cells: CellOptions;
  readonly images: readonly BakeImage[];
  /** Of each image. */
  readonly pictures: readonly Layout[];
  readonly bands: readonly BakeBand[];
  readonly chunks: readonly BakeChunk[];
  readonly files: readonly BakeFile[];
}

function refuse(message: string): never {
  throw new BakeRefused(message);
}

const isWithin = (value: number, low: number, high: number): boolean =>
  Number.isInteger(value) && value >= low && value <= high;

/** A whole number of a recipe, or a refusal. */
function whole(value: number, low: number, high: number, what: string): number {
  return isWithin(value, low, high) ? value : refuse(reasons.wholeNumber(what, low, high, value));
}

interface Frames {
  readonly frames: readonly number[];
  readonly rate: number | undefined;
  readonly closes: boolean;
}

/** The frames that a recipe asks for. Throws BakeRefused. */
function framesOf({ frames: asked, every = 1 }: BakeRecipe, { frames: count, fps, seconds }: Loop): Frames {
  whole(every, 1, BAKE_FRAME_LIMIT, 'The k in every k-th frame');
  const known = (frame: number): number =>
    isWithin(frame, 0, count - 1) ? frame : refuse(reasons.noSuchFrame(count - 1, frame));
  const thinned = (all: readonly number[]): number[] => all.filter((_, i) => i % every === 0);
  const run = (first: number, last: number): number[] =>
    thinned(Array.from({ length: last - first + 1 }, (_, i) => first + i));
  if (asked === 'all') return { frames: run(0, count - 1), rate: fps / every, closes: count % every === 0 };
  if ('count' in asked) {
    const evenly = whole(asked.count, 1, BAKE_FRAME_LIMIT, 'The number of frames');
    if (every > 1) refuse(reasons.everyOfSpread);
    return {
      frames: Array.from({ length: evenly }, (_, i) => (i * count) / evenly),
      rate: evenly / seconds,
      closes: true,
    };
  }
  if ('list' in asked) {
    if (asked.list.length === 0) refuse(reasons.noFrames);
    return { frames: thinned(asked.list.map(known)), rate: undefined, closes: false };
  }
  const [first, last] = asked;
  known(first);
  known(last);
  if (first > last) refuse(reasons.framesReversed(first, last));
  const all = first === 0 && last === count - 1;
  return { frames: run(first, last), rate: fps / every, closes: all && count % every === 0 };
}

/** How long a frame lasts, as 16 bits each hold it. */
export function delayOf(rate: number): Delay {
  if (Number.isInteger(rate) && rate <= 65535) return { num: 1, den: rate };
  const num = [1000, 100, 10, 1].find((n) => n * rate < 65536) ?? 1;
  return { num, den: Math.max(1, Math.round(rate * num)) };
}

/** What each image shows. Throws BakeRefused. */
function imagesOf(recipe: BakeRecipe, puts: ReadonlySet<Channel>): BakeImage[] {
  const { outputs, pack, size, samples = 1, bits = 8, premultiply = false, linear = [], normalY = 'up' } = recipe;
  const common = { width: size[0], height: size[1], samples, bits, premultiply, linear, normalY };
  if (pack !== undefined && outputs !== undefined) refuse(reasons.packedOrNot);
  const missing = (all: readonly Channel[]): void => {
    const none = all.find((output) => !puts.has(output));
    if (none !== undefined) refuse(reasons.noSuchOutput(none, [...puts]));
  };
  if (pack !== undefined) {
    const read = readPack(pack);
    if (typeof read === 'string') refuse(read);
    missing(outputsOf(read));
    return [{ name: 'packed', pack: read, options: { ...common, output: read } }];
  }
  const shown = outputs ?? ['color'];
  if (shown.length === 0) refuse(reasons.noOutputs);
  if (new Set(shown).size < shown.length) refuse(reasons.outputTwice);
  missing(shown);
  return shown.map((output) => ({ name: output, pack: plainPack(output), options: { ...common, output } }));
}

/** Works a recipe out. Throws BakeRefused with a sentence where it cannot be baked. */
export function bakePlan(program: Program, recipe: BakeRecipe): BakePlan {
  const values = readSettings(program, recipe.variant, Object.entries(recipe.values ?? {}));
  if (typeof values === 'string') refuse(values);
  const compiled = compile(program, { values });
  const wrong = compiled.diagnostics.find((d) => d.severity === 'error');
  if (wrong) refuse(reasons.hasErrors(wrong.message));
  const { format, size, samples = 1, bleed = 0, spread = false, premultiply = false, powerOfTwo = false } = recipe;
  const sheet = format === 'sheet';
  whole(size[0], 1, BAKE_SIDE_LIMIT, 'The width of a frame');
  whole(size[1], 1, BAKE_SIDE_LIMIT, 'The height of a frame');
  whole(samples, 1, SAMPLE_LIMIT, 'Samples per pixel side');
  whole(bleed, 0, BLEED_LIMIT, 'Bleed');
  if (bleed > 0 && !sheet) refuse(reasons.bleedOfSheets);
  if (powerOfTwo && !sheet) refuse(reasons.powerOfSheets);
  if (recipe.columns !== undefined && !sheet) refuse(reasons.columnsOfSheets);
  if (spread && premultiply) refuse(reasons.spreadPremultiplied);
  const { loop, surface } = program;
  const { frames, rate, closes } = framesOf(recipe, loop);
  whole(frames.length, 1, BAKE_FRAME_LIMIT, 'The number of frames');
  const images = imagesOf(recipe, new Set(CHANNELS.filter((c) => compiled.graph.outputs.has(c))));
  const columns = whole(recipe.columns ?? columnsFor(frames.length), 1, frames.length, 'The number of columns');
  const work = size[0] * size[1] * samples ** 2 * frames.length * images.length;
  if (work > BAKE_WORK_LIMIT) refuse(reasons.tooMuchWork(work / BAKE_WORK_LIMIT));
  const cells: CellOptions = { bleed, spread, powerOfTwo };
  const pictures: Layout[] = sheet ? [{ columns, frames }] : frames.map((frame) => ({ columns: 1, frames: [frame] }));
  const { width, height } = pictureSize(pictures[0]!, images[0]!.options, cells);
  if (Math.max(width, height) > SHEET_SIDE_LIMIT) refuse(reasons.sheetTooLarge(width, height, SHEET_SIDE_LIMIT));
  const rowBytes = width * (size[1] + 2 * bleed) * (recipe.bits === 16 ? 8 : 4);
  if (spread && rowBytes > SPREAD_LIMIT)
    refuse(reasons.spreadTooLarge(Math.round(rowBytes / 1024 ** 2), SPREAD_LIMIT / 1024 ** 2));
  const bands = images.flatMap(({ options }, image) => bandsOf(pictures, options, cells).map((b) => ({ ...b, image })));
  const chunks: BakeChunk[] = [];
  for (let first = 0, cost = 0, i = 0; i < bands.length; i++) {
    cost += (bands[i]!.end - bands[i]!.first) * width * samples ** 2;
    if (cost < CHUNK_SAMPLES && i < bands.length - 1) continue;
    chunks.push({ first, end: i + 1 });
    first = i + 1;
    cost = 0;
  }
  const { file: name } = packageName(program.title);
  return {
    recipe,
    name,
    loop,
    surface,
    values,
    frames,
    rate,
    closes,
    cells,
    images,
    pictures,
    bands,
    chunks,
    files: filesOf(),
  };

  function filesOf(): BakeFile[] {
    const digits = Math.max(4, String(frames.length - 1).length);
    return images.flatMap(({ name: shows }, image) => {
      const of = images.length > 1 || shows === 'packed' ? `${name}.${shows}` : name;
      if (format === 'apng')
        return [
          {
            name: `${of}.png`,
            image,
            first: 0,
            count: pictures.length,
            width,
            height,
            delay: delayOf(rate ?? loop.fps),
          },
        ];
      if (sheet) return [{ name: `${of}.png`, image, first: 0, count: 1, width, height }];
      return pictures.map((_, i) => ({
        name: `${of}.${String(i).padStart(digits, '0')}.png`,
        image,
        first: i,
        count: 1,
        width,
        height,
      }));
    });
  }
}

/** How many frames a band is worth: all bands together are all frames of all images. */
export const framesIn = ({ pictures, images, cells }: BakePlan, { picture, image, first, end }: BakeBand): number => {
  const layout = pictures[picture]!;
  return (layout.frames.length * (end - first)) / pictureSize(layout, images[image]!.options, cells).height;
};

/** How many frames a chunk is worth. */
export const framesOfChunk = (plan: BakePlan, { first, end }: BakeChunk): number =>
  plan.bands.slice(first, end).reduce((sum, band) => sum + framesIn(plan, band), 0);

/** Bytes of a band before it is compressed. */
export const bandLength = ({ pictures, images, cells }: BakePlan, { picture, image, first, end }: BakeBand): number => {
  const { options } = images[image]!;
  const { width } = pictureSize(pictures[picture]!, options, cells);
  return (width * (options.bits === 16 ? 8 : 4) + 1) * (end - first);
};

/** Frames of all images. */
export const frameCount = ({ frames, images }: BakePlan): number => frames.length * images.length;

/** Whether all of an image is stored as it is: nothing in it is sRGB. */
export const isLinear = ({ pack, options: { linear = [] } }: BakeImage): boolean =>
  !pack.some((pick) => isSrgb(pick, linear)) ||
  // A packing of several outputs is data, whatever is in it.
  outputsOf(pack).length > 1;
