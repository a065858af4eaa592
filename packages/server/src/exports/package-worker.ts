import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { zipOf } from '@estela/codecs/files';
import { nodeDecoder, packageHost, packageImage } from '@estela/codecs/node';
import { check, materialPackage, parse, TARGETS, type NormalY, type PackageImage, type Target } from '@estela/core';

/** A material with its images, and how it is to be written. */
export interface PackageJob {
  readonly text: string;
  readonly revision: number;
  readonly targets?: readonly Target[] | undefined;
  readonly variant?: string | undefined;
  readonly normalY: NormalY;
  readonly leaveOutMissing: boolean;
  /** Files by the names that the text reads them by. */
  readonly images: ReadonlyMap<string, Uint8Array>;
}

/** Files by name. */
export type Files = ReadonlyMap<string, Uint8Array>;

/** Files by name, or why there are none: a sentence, and the images that are missing, if that is why. */
export type Packaged = { readonly files: Files } | { readonly refused: string; readonly missing?: readonly string[] };

const fromSource = import.meta.filename.endsWith('.ts');
const PLAYER = join(import.meta.dirname, fromSource ? '../../..' : '../..', 'player/dist/index.html');
const decoder = nodeDecoder();

/** Makes a package, or a zip of files that are made, in a thread of its own. */
export default function work(job: PackageJob | { readonly zip: Files }): Promise<Packaged> | Uint8Array {
  return 'zip' in job ? zipOf(job.zip) : write(job);
}

async function write(job: PackageJob): Promise<Packaged> {
  const { text, revision, targets = TARGETS, variant, normalY, leaveOutMissing } = job;
  const program = check(parse(text));
  const [error] = program.diagnostics.filter((d) => d.severity === 'error');
  if (error) return { refused: `It has errors: ${error.message}` };
  if (variant !== undefined && !program.variants.some((v) => v.name === variant))
    return { refused: `It has no variant named "${variant}".` };
  const images = new Map<string, PackageImage>();
  for (const [name, bytes] of job.images) images.set(name, await packageImage(decoder, bytes));
  const missing = [...new Set(program.images.map((i) => i.source))].filter((source) => !images.has(source));
  if (missing.length > 0 && !leaveOutMissing)
    return { refused: `It reads images that are not in the project: ${missing.join(', ')}.`, missing };
  try {
    const host = packageHost(await readFile(PLAYER, 'utf8'));
    return { files: materialPackage(program, { targets, variant, normalY, revision, images }, host) };
  } catch (thrown) {
    // What only expanding can tell: limits.
    return { refused: thrown instanceof Error ? thrown.message : String(thrown) };
  }
}
