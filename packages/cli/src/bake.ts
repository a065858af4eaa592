import { mkdir, open, rename, rm, type FileHandle } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { dirname, join } from 'node:path';
import {
  BAKE_SIDE_LIMIT,
  BLEED_LIMIT,
  CHANNELS,
  pictureSize,
  PngWriter,
  SAMPLE_LIMIT,
  type CellOptions,
  type Channel,
  type Layout,
} from '@estela/core';
import { bakedBands } from './band-threads.ts';
import type { BakeJob } from './bake-job.ts';
import { compiled, loadMaterial } from './material.ts';
import { fail, type Chosen } from './settings.ts';

export interface BakeArguments extends Chosen {
  readonly size: string;
  readonly channel: string;
  readonly frames: string;
  readonly format: string;
  readonly out: string;
  readonly samples: string;
  readonly sources?: string;
  readonly every?: string;
  readonly columns?: string;
  readonly jobs?: string;
  readonly bits?: string;
  readonly bleed?: string;
  readonly spread?: boolean;
  readonly premultiply?: boolean;
}

/** Most threads that may be asked for. */
const JOBS_LIMIT = 256;

function readSize(text: string): { width: number; height: number } {
  const [, w, h] = /^(\d+)x(\d+)$/.exec(text) ?? fail(`--size takes WIDTHxHEIGHT, not '${text}'.`);
  const [width, height] = [Number(w), Number(h)];
  if (width < 1 || height < 1 || width > BAKE_SIDE_LIMIT || height > BAKE_SIDE_LIMIT)
    fail(`--size goes from 1x1 to ${String(BAKE_SIDE_LIMIT)}x${String(BAKE_SIDE_LIMIT)}.`);
  return { width, height };
}

/** Frames in the order they are asked for. */
function readFrames(text: string, count: number): number[] {
  if (text === 'all') return Array.from({ length: count }, (_, i) => i);
  return text.split(',').flatMap((part) => {
    const [, a, , b] =
      /^(\d+)(\.\.(\d+))?$/.exec(part.trim()) ??
      fail(`--frames takes all, or frames and FIRST..LAST with commas between, not '${text}'.`);
    const [first, last] = [Number(a), Number(b ?? a)];
    if (first > last || last >= count)
      fail(`The loop has frames 0 to ${String(count - 1)}; --frames asks for ${part.trim()}.`);
    return Array.from({ length: last - first + 1 }, (_, i) => first + i);
  });
}

function readEvery(text = '1'): number {
  const every = Number(text);
  if (!Number.isInteger(every) || every < 1) fail(`--every takes a whole number from 1 up, not '${text}'.`);
  return every;
}

/** Columns of a sheet: as many as rows, or nearly, where nothing is said. */
function readColumns(text: string | undefined, frames: number): number {
  const columns = text === undefined ? Math.ceil(Math.sqrt(frames)) : Number(text);
  if (!Number.isInteger(columns) || columns < 1 || columns > frames)
    fail(`--columns takes a whole number from 1 to the ${String(frames)} frames there are, not '${text ?? ''}'.`);
  return columns;
}

/** How frames stand in a sheet; pictures of one frame have nothing around them. */
function readCells({ bleed = '0', spread = false, premultiply = false }: BakeArguments, sheet: boolean): CellOptions {
  const pixels = Number(bleed);
  if (!Number.isInteger(pixels) || pixels < 0 || pixels > BLEED_LIMIT)
    fail(`--bleed takes a whole number from 0 to ${String(BLEED_LIMIT)}, not '${bleed}'.`);
  if (pixels > 0 && !sheet) fail('--bleed is for sheets, in which frames stand side by side.');
  if (spread && premultiply) fail('--spread is of no use with --premultiply: what is clear has no colour then.');
  return { bleed: pixels, spread };
}

/** A bar on a terminal; nothing where the output goes elsewhere. */
function showProgress(done: number, total: number): void {
  if (!process.stderr.isTTY) return;
  const width = 32;
  const full = Math.round((done / total) * width);
  process.stderr.write(
    `\r[${'#'.repeat(full)}${'.'.repeat(width - full)}] ${String(done)}/${String(total)} frames${done === total ? '\n' : ''}`,
  );
}

/** A file that is written as its parts come: beside its place first, and put there once it is whole. */
class WholeFile {
  private constructor(
    readonly path: string,
    readonly handle: FileHandle,
  ) {}

  static async at(path: string): Promise<WholeFile> {
    await mkdir(dirname(path), { recursive: true });
    return new WholeFile(path, await open(`${path}.part`, 'w'));
  }

  async write(bytes: Uint8Array): Promise<void> {
    await this.handle.writeFile(bytes);
  }

  async finish(): Promise<void> {
    await this.handle.close();
    await rename(`${this.path}.part`, this.path);
  }

  async drop(): Promise<void> {
    await this.handle.close();
    await rm(`${this.path}.part`, { force: true });
  }
}

/**
 * Bakes a material; 1 where it does not compile or has no such output, 130 where it was stopped. Throws where an option is
 * wrong.
 */
export async function bakeMaterial(file: string, options: BakeArguments): Promise<number> {
  const material = await loadMaterial(file, options.sources);
  const { text, program, images } = material;
  const channel: Channel =
    CHANNELS.find((c) => c === options.channel) ??
    fail(`--channel takes one of ${CHANNELS.join(', ')}, not '${options.channel}'.`);
  const samples = Number(options.samples);
  if (!Number.isInteger(samples) || samples < 1 || samples > SAMPLE_LIMIT)
    fail(`--samples takes a whole number from 1 to ${String(SAMPLE_LIMIT)}.`);
  if (!['png', 'apng', 'sheet'].includes(options.format))
    fail(`--format takes png, apng or sheet, not '${options.format}'.`);
  const bits = options.bits === '16' ? 16 : 8;
  if (!['8', '16'].includes(options.bits ?? '8')) fail(`--bits takes 8 or 16, not '${options.bits ?? ''}'.`);
  const size = readSize(options.size);
  const every = readEvery(options.every);
  const frames = readFrames(options.frames, program.loop.frames).filter((_, i) => i % every === 0);
  const made = compiled(file, material, options);
  if (!made) return 1;
  const { dials, switches } = made.settings;
  if (!made.graph.outputs.has(channel)) {
    console.error(`The material puts out no ${channel}.`);
    return 1;
  }
  const columns = readColumns(options.columns, frames.length);
  const sheet = options.format === 'sheet';
  const rows = Math.ceil(frames.length / columns);
  const cells = readCells(options, sheet);
  const { width, height } = pictureSize({ columns, frames }, size, cells);
  if (sheet && Math.max(width, height) > 2 * BAKE_SIDE_LIMIT)
    fail(
      `A sheet of ${String(frames.length)} frames of this size passes ${String(2 * BAKE_SIDE_LIMIT)} pixels a side.`,
    );
  const threads = Number(options.jobs ?? availableParallelism());
  if (!Number.isInteger(threads) || threads < 1 || threads > JOBS_LIMIT)
    fail(`--jobs takes a whole number from 1 to ${String(JOBS_LIMIT)}.`);

  const stop = new AbortController();
  const interrupted = (): void => {
    stop.abort(new Stopped());
  };
  process.once('SIGINT', interrupted);
  process.once('SIGTERM', interrupted);
  const pictures: Layout[] = sheet ? [{ columns, frames }] : frames.map((frame) => ({ columns: 1, frames: [frame] }));
  const job: BakeJob = {
    text,
    images,
    dials,
    switches,
    options: { ...size, channel, samples, bits, premultiply: options.premultiply ?? false },
    pictures,
    cells,
  };
  const linear = channel !== 'color' && channel !== 'emissive';
  const digits = Math.max(4, String(frames.at(-1) ?? 0).length);
  const alone = pictures.length === 1 && (sheet || options.out.endsWith('.png'));
  const target: Target =
    options.format === 'apng'
      ? { animation: delayOf(program.loop.fps / every) }
      : { pathOf: (i) => (alone ? options.out : join(options.out, `${String(frames[i]).padStart(digits, '0')}.png`)) };
  try {
    await writePictures(job, threads, stop.signal, options.out, target, linear);
  } catch (error) {
    if (!(error instanceof Stopped)) throw error;
    console.error('\nStopped; nothing was written.');
    return 130;
  } finally {
    process.off('SIGINT', interrupted);
    process.off('SIGTERM', interrupted);
  }
  if (sheet) console.log(`Wrote a sheet of ${String(columns)} columns and ${String(rows)} rows to ${options.out}.`);
  else if (alone) console.log(`Wrote ${options.out}.`);
  else console.log(`Wrote ${String(frames.length)} frames to ${options.out}.`);
  return 0;
}

class Stopped extends Error {}

/** One file with all frames, each lasting so long, or a file for each picture. */
type Target =
  | { readonly animation: { readonly num: number; readonly den: number } }
  | { readonly pathOf: (picture: number) => string };

/** How long a frame lasts, as 16 bits each hold it. */
function delayOf(fps: number): { num: number; den: number } {
  if (Number.isInteger(fps)) return { num: 1, den: fps };
  const num = fps < 65 ? 1000 : 100;
  return { num, den: Math.round(fps * num) };
}

/** Writes pictures as their bands are done; where that breaks off, none of them is left. */
async function writePictures(
  job: BakeJob,
  threads: number,
  stop: AbortSignal,
  out: string,
  target: Target,
  linear: boolean,
): Promise<void> {
  const { pictures, options } = job;
  const written: string[] = [];
  const total = pictures.reduce((sum, { frames }) => sum + frames.length, 0);
  let file: WholeFile | undefined;
  let writer: PngWriter | undefined;
  showProgress(0, total);
  try {
    for await (const { place, band } of bakedBands(job, threads, stop)) {
      const layout = pictures[place.picture]!;
      const { width, height } = pictureSize(layout, options, job.cells);
      if (!file || !writer) {
        const animated = 'animation' in target;
        file = await WholeFile.at(animated ? out : target.pathOf(place.picture));
        writer = new PngWriter({
          width,
          height,
          bits: options.bits ?? 8,
          linear,
          ...(animated ? { frames: { count: pictures.length, delay: target.animation } } : {}),
        });
        await file.write(writer.start());
      }
      await file.write(writer.band(band, place.last));
      const before = pictures.length === 1 ? 0 : place.picture;
      showProgress(before + Math.floor((layout.frames.length * place.end) / height), total);
      if (!place.last || ('animation' in target && place.picture < pictures.length - 1)) continue;
      await file.write(writer.end());
      await file.finish();
      written.push(file.path);
      file = undefined;
    }
  } catch (error) {
    await file?.drop();
    await Promise.all(written.map((path) => rm(path, { force: true })));
    throw error;
  }
}
