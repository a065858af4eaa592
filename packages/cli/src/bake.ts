import { rm } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { zipped } from '@estela/codecs/files';
import {
  BAKE_FORMATS,
  bakeFiles,
  bakePieces,
  bakePlan,
  BakeRefused,
  CHANNELS,
  frameCount,
  framesIn,
  type BakePlan,
  type BakeRecipe,
  type Band,
  type Channel,
  type FilePiece,
  writtenManifest,
} from '@estela/core';
import { bakedBands } from './band-threads.ts';
import type { BakeJob } from './bake-job.ts';
import { compiled, loadMaterial } from './material.ts';
import { fail, oneOf, settingPair, wholeNumber, type Chosen } from './settings.ts';
import { WholeFile } from './whole-file.ts';
import { needFfmpeg, writeVideo } from './video.ts';
import { say } from './wording.ts';

export interface BakeArguments extends Chosen {
  readonly size: string;
  readonly outputs?: string;
  readonly pack?: string;
  readonly frames: string;
  readonly count?: string;
  readonly format: string;
  readonly out: string;
  readonly samples: string;
  readonly sources?: string;
  readonly every?: string;
  readonly columns?: string;
  readonly powerOfTwo?: boolean;
  readonly jobs?: string;
  readonly bits?: string;
  readonly bleed?: string;
  readonly spread?: boolean;
  readonly premultiply?: boolean;
  readonly linear?: string;
  readonly normalY?: string;
}

/** Most threads that may be asked for. */
const JOBS_LIMIT = 256;

function readSize(text: string): [number, number] {
  const [, w, h] = /^(\d+)x(\d+)$/.exec(text) ?? fail(say.takes('--size', 'WIDTHxHEIGHT', text));
  return [Number(w), Number(h)];
}

/** Frames in the order they are asked for. */
function readFrames(text: string, count: string | undefined): BakeRecipe['frames'] {
  if (count !== undefined) {
    if (text !== 'all') fail(say.countOfAll);
    return { count: wholeNumber('--count', count) };
  }
  if (text === 'all') return 'all';
  const runs = text.split(',').map((part): [number, number] => {
    const [, a, , b] = /^(\d+)(\.\.(\d+))?$/.exec(part.trim()) ?? fail(say.takes('--frames', say.frames, text));
    return [Number(a), Number(b ?? a)];
  });
  const [only] = runs;
  if (runs.length === 1 && only) return only;
  return { list: runs.flatMap(([first, last]) => Array.from({ length: last - first + 1 }, (_, i) => first + i)) };
}

const readOutputs = (option: string, text: string): Channel[] =>
  text
    .split(',')
    .map(
      (name) => CHANNELS.find((c) => c === name.trim()) ?? fail(say.takes(option, say.someOf(CHANNELS), name.trim())),
    );

function recipeOf(options: BakeArguments, format: BakeRecipe['format']): BakeRecipe {
  const {
    size,
    outputs,
    pack,
    frames,
    count,
    every,
    columns,
    bits = '8',
    samples,
    bleed,
    linear,
    variant,
    set,
  } = options;
  const { spread, premultiply, powerOfTwo, normalY } = options;
  return {
    format,
    size: readSize(size),
    frames: readFrames(frames, count),
    samples: wholeNumber('--samples', samples),
    bits: oneOf('--bits', bits, ['8', '16']) === '16' ? 16 : 8,
    ...(outputs === undefined ? {} : { outputs: readOutputs('--outputs', outputs) }),
    ...(pack === undefined ? {} : { pack }),
    ...(every === undefined ? {} : { every: wholeNumber('--every', every) }),
    ...(columns === undefined ? {} : { columns: wholeNumber('--columns', columns) }),
    ...(bleed === undefined ? {} : { bleed: wholeNumber('--bleed', bleed) }),
    ...(spread ? { spread } : {}),
    ...(premultiply ? { premultiply } : {}),
    ...(powerOfTwo ? { powerOfTwo } : {}),
    ...(linear === undefined ? {} : { linear: readOutputs('--linear', linear) }),
    ...(normalY === undefined ? {} : { normalY: oneOf('--normal-y', normalY, ['up', 'down'] as const) }),
    ...(variant === undefined ? {} : { variant }),
    ...(set.length === 0 ? {} : { values: Object.fromEntries(set.map(settingPair)) }),
  };
}

/** A bar on a terminal; nothing where the output goes elsewhere. */
function showProgress(done: number, total: number): void {
  if (!process.stderr.isTTY) return;
  const width = 32;
  const full = Math.round((done / total) * width);
  process.stderr.write(
    `\r[${'#'.repeat(full)}${'.'.repeat(width - full)}] ${String(Math.floor(done))}/${String(total)} frames${done >= total ? '\n' : ''}`,
  );
}

class Stopped extends Error {}

/**
 * Bakes a material; 1 where it does not compile, 130 where it was stopped. Throws with a sentence where it cannot be baked
 * so.
 */
export async function bakeMaterial(file: string, options: BakeArguments): Promise<number> {
  const material = await loadMaterial(file, options.sources);
  const format = oneOf('--format', options.format, [...BAKE_FORMATS, 'webm']);
  const video = format === 'webm';
  // A video has no alpha: it shows colours over black, which premultiplied ones are.
  const recipe = video
    ? { ...recipeOf(options, 'sequence'), premultiply: true, bits: 8 as const }
    : recipeOf(options, format);
  const threads = options.jobs === undefined ? availableParallelism() : wholeNumber('--jobs', options.jobs);
  if (threads < 1 || threads > JOBS_LIMIT) fail(say.goesFrom('--jobs', 1, JOBS_LIMIT));
  if (!compiled(file, material, options)) return 1;
  let plan: BakePlan;
  try {
    plan = bakePlan(material.program, recipe);
  } catch (error) {
    if (!(error instanceof BakeRefused)) throw error;
    return fail(error.message);
  }
  if (!video && plan.files.length > 1 && /\.(png|webm)$/i.test(options.out))
    return fail(say.manyFiles(plan.files.length));
  if (video) await needFfmpeg();

  const stop = new AbortController();
  const interrupted = (): void => {
    stop.abort(new Stopped());
  };
  process.once('SIGINT', interrupted);
  process.once('SIGTERM', interrupted);
  const job: BakeJob = { text: material.text, images: material.images, recipe };
  const bands = withProgress(plan, bakedBands(job, plan.bands.length, threads, stop.signal));
  try {
    const { out } = options;
    if (video) await writeVideo(plan, bakeFiles(plan, bands), out);
    else if (out.endsWith('.zip')) await writeZip(plan, bands, out);
    else await writeFiles(plan, bakeFiles(plan, bands), out);
  } catch (error) {
    if (!(error instanceof Stopped)) throw error;
    console.error(`\n${say.stopped}`);
    return 130;
  } finally {
    process.off('SIGINT', interrupted);
    process.off('SIGTERM', interrupted);
  }
  console.log(say.wrote(saidOf(plan, video ? 'video' : plan.recipe.format), options.out));
  return 0;
}

function saidOf({ frames, images, pictures }: BakePlan, format: string): string {
  const frame = `${String(frames.length)} ${frames.length === 1 ? 'frame' : 'frames'}`;
  const of = images.length === 1 ? frame : `${frame} of ${images.map((i) => i.name).join(', ')}`;
  if (format !== 'sheet') return of;
  const { columns } = pictures[0]!;
  return `${of}, ${String(columns)} across and ${String(Math.ceil(frames.length / columns))} down,`;
}

async function* withProgress(plan: BakePlan, bands: AsyncIterable<Band>): AsyncGenerator<Band> {
  let [index, done] = [0, 0];
  showProgress(0, frameCount(plan));
  for await (const band of bands) {
    yield band;
    done += framesIn(plan, plan.bands[index++]!);
    showProgress(index === plan.bands.length ? frameCount(plan) : done, frameCount(plan));
  }
}

const utf8 = (text: string): Uint8Array<ArrayBuffer> => new Uint8Array(Buffer.from(text, 'utf8'));

/** Writes one file as what is at `out`, or several into the folder there; where that breaks off, none of them is left. */
async function writeFiles(plan: BakePlan, pieces: AsyncIterable<FilePiece>, out: string): Promise<void> {
  const alone = plan.files.length === 1 && (plan.recipe.format !== 'sequence' || out.endsWith('.png'));
  const written: string[] = [];
  let file: WholeFile | undefined;
  const write = async (path: string, bytes: Uint8Array, last: boolean): Promise<void> => {
    file ??= await WholeFile.at(path);
    await file.write(bytes);
    if (!last) return;
    await file.finish();
    written.push(file.path);
    file = undefined;
  };
  try {
    for await (const { file: of, bytes, last } of pieces) await write(alone ? out : join(out, of.name), bytes, last);
    if (!alone) await write(join(out, `${plan.name}.json`), utf8(writtenManifest(plan)), true);
    else if (plan.recipe.format !== 'sequence')
      await write(`${out.replace(/\.png$/, '')}.json`, utf8(writtenManifest(plan)), true);
  } catch (error) {
    await file?.drop();
    await Promise.all(written.map((path) => rm(path, { force: true })));
    throw error;
  }
}

/** All files of a bake and its manifest in one zip: the same bytes as the server gives. */
async function writeZip(plan: BakePlan, bands: AsyncIterable<Band>, out: string): Promise<void> {
  const file = await WholeFile.at(out);
  try {
    for await (const bytes of zipped(bakePieces(plan, bands, utf8))) await file.write(bytes);
    await file.finish();
  } catch (error) {
    await file.drop();
    throw error;
  }
}
