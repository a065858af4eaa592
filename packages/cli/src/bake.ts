import { mkdir, rename, rm, writeFile } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { dirname, join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { deflateSync } from 'node:zlib';
import {
  BAKE_SIDE_LIMIT,
  CHANNELS,
  encodeApng,
  encodePng,
  SAMPLE_LIMIT,
  sheetOf,
  type Channel,
  type RgbaPicture,
} from '@estela/core';
import type { BakedFrame, BakeJob } from './bake-job.ts';
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
}

const deflate = (bytes: Uint8Array): Uint8Array => deflateSync(bytes, { level: 9 });

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

/** A bar on a terminal; nothing where the output goes elsewhere. */
function showProgress(done: number, total: number): void {
  if (!process.stderr.isTTY) return;
  const width = 32;
  const full = Math.round((done / total) * width);
  process.stderr.write(
    `\r[${'#'.repeat(full)}${'.'.repeat(width - full)}] ${String(done)}/${String(total)} frames${done === total ? '\n' : ''}`,
  );
}

/** Computes frames on all cores; `stop` ends it with undefined. */
async function computeFrames(
  job: Omit<BakeJob, 'frames'>,
  frames: readonly number[],
  stop: AbortSignal,
): Promise<Map<number, Uint8Array> | undefined> {
  const threads = Math.min(availableParallelism(), frames.length);
  const done = new Map<number, Uint8Array>();
  showProgress(0, frames.length);
  const workers = Array.from({ length: threads }, (_, t) => {
    const workerData: BakeJob = { ...job, frames: frames.filter((__, i) => i % threads === t) };
    return new Worker(new URL('./bake.worker.js', import.meta.url), { workerData });
  });
  const ends = workers.map(
    (worker) =>
      new Promise<void>((resolve, reject) => {
        worker.on('message', ({ frame, data }: BakedFrame) => {
          done.set(frame, data);
          showProgress(done.size, frames.length);
        });
        worker.on('error', reject);
        worker.on('exit', () => {
          resolve();
        });
      }),
  );
  const halt = (): void => {
    for (const worker of workers) void worker.terminate();
  };
  stop.addEventListener('abort', halt);
  try {
    await Promise.all(ends);
  } finally {
    stop.removeEventListener('abort', halt);
    halt();
  }
  return stop.aborted ? undefined : done;
}

/** Writes a whole file or none: beside it first, then in its place. */
async function writeWhole(path: string, bytes: Uint8Array): Promise<void> {
  await mkdir(dirname(path), { recursive: true });
  const beside = `${path}.part`;
  await writeFile(beside, bytes);
  await rename(beside, path);
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
  const size = readSize(options.size);
  const frames = readFrames(options.frames, program.loop.frames);
  const made = compiled(file, material, options);
  if (!made) return 1;
  const { dials, switches } = made.settings;
  if (!made.graph.outputs.has(channel)) {
    console.error(`The material puts out no ${channel}.`);
    return 1;
  }
  const columns = Math.ceil(Math.sqrt(frames.length));
  if (options.format === 'sheet' && columns * Math.max(size.width, size.height) > 2 * BAKE_SIDE_LIMIT)
    fail(
      `A sheet of ${String(frames.length)} frames of this size passes ${String(2 * BAKE_SIDE_LIMIT)} pixels a side.`,
    );

  const stop = new AbortController();
  const interrupted = (): void => {
    stop.abort();
  };
  process.once('SIGINT', interrupted);
  process.once('SIGTERM', interrupted);
  const baked = await computeFrames(
    { text, images, dials, switches, options: { ...size, channel, samples } },
    [...new Set(frames)],
    stop.signal,
  );
  if (!baked) {
    console.error('\nStopped; nothing was written.');
    return 130;
  }
  const pictures = frames.map((frame): RgbaPicture => ({
    ...size,
    data: baked.get(frame) ?? new Uint8Array(size.width * size.height * 4),
  }));
  await writeOut(options, pictures, frames, program.loop.fps, columns, channel !== 'color' && channel !== 'emissive');
  return 0;
}

async function writeOut(
  { format, out }: BakeArguments,
  pictures: readonly RgbaPicture[],
  frames: readonly number[],
  fps: number,
  columns: number,
  linear: boolean,
): Promise<void> {
  if (format === 'apng') {
    const whole = Number.isInteger(fps);
    await writeWhole(
      out,
      encodeApng(pictures, whole ? { num: 1, den: fps } : { num: 1000, den: Math.round(fps * 1000) }, deflate),
    );
    console.log(`Wrote ${String(pictures.length)} frames to ${out}.`);
  } else if (format === 'sheet') {
    await writeWhole(out, encodePng(sheetOf(pictures, columns), deflate, linear));
    console.log(
      `Wrote a sheet of ${String(columns)} columns and ${String(Math.ceil(pictures.length / columns))} rows to ${out}.`,
    );
  } else if (pictures.length === 1 && out.endsWith('.png')) {
    await writeWhole(out, encodePng(pictures[0]!, deflate, linear));
    console.log(`Wrote ${out}.`);
  } else {
    const digits = Math.max(4, String(frames.at(-1) ?? 0).length);
    const written: string[] = [];
    try {
      for (const [i, picture] of pictures.entries()) {
        const path = join(out, `${String(frames[i]).padStart(digits, '0')}.png`);
        await writeWhole(path, encodePng(picture, deflate, linear));
        written.push(path);
      }
    } catch (error) {
      await Promise.all(written.map((path) => rm(path, { force: true })));
      throw error;
    }
    console.log(`Wrote ${String(pictures.length)} frames to ${out}.`);
  }
}
