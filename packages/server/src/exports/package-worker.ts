import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { zipOf } from '@estela/codecs/files';
import { packageHost } from '@estela/codecs/node';
import { materialPackage, TARGETS, type NormalY, type Target } from '@estela/core';
import { readImages, readProgram, reason, type MaterialJob, type Refused } from './material-job.ts';

/** A material with its images, and how it is to be written. */
export interface PackageJob extends MaterialJob {
  readonly revision: number;
  readonly targets?: readonly Target[] | undefined;
  readonly normalY: NormalY;
}

/** Files by name. */
export type Files = ReadonlyMap<string, Uint8Array>;

/** Files by name, or why there are none. */
export type Packaged = { readonly files: Files } | Refused;

const fromSource = import.meta.filename.endsWith('.ts');
const PLAYER = join(import.meta.dirname, fromSource ? '../../..' : '../..', 'player/dist/index.html');

/** Makes a package, or a zip of files that are made, in a thread of its own. */
export default function work(job: PackageJob | { readonly zip: Files }): Promise<Packaged> | Uint8Array {
  return 'zip' in job ? zipOf(job.zip) : write(job);
}

async function write(job: PackageJob): Promise<Packaged> {
  const program = readProgram(job);
  if ('refused' in program) return program;
  const { revision, targets = TARGETS, variant, normalY } = job;
  try {
    const images = await readImages(job.images);
    const host = packageHost(await readFile(PLAYER, 'utf8'));
    return { files: materialPackage(program, { targets, variant, normalY, revision, images }, host) };
  } catch (thrown) {
    return { refused: reason(thrown) };
  }
}
