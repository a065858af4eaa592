import { readFile } from 'node:fs/promises';
import { join, resolve, sep } from 'node:path';
import { IMAGE_TYPES } from '@estela/codecs';
import type { PackageImage } from '@estela/core';

type Read = (bytes: Uint8Array) => Promise<PackageImage>;
let reader: Promise<Read> | undefined;

/** What reads images; fetched with the first, as most materials need none. */
async function makeReader(): Promise<Read> {
  const { nodeDecoder, packageImage } = await import('@estela/codecs/node');
  const decoder = nodeDecoder();
  return (bytes) => packageImage(decoder, bytes);
}

/**
 * A source in a folder: the name as it is, or with an image file's ending; undefined where there is none.
 */
export async function readSource(folder: string | undefined, name: string): Promise<PackageImage | undefined> {
  if (folder === undefined) return undefined;
  const root = resolve(folder);
  for (const candidate of [name, ...Object.keys(IMAGE_TYPES).map((type) => `${name}.${type}`)]) {
    const path = join(root, candidate);
    if (!path.startsWith(root + sep)) continue;
    const bytes = await readFile(path).catch(() => undefined);
    if (!bytes) continue;
    return (await (reader ??= makeReader()))(bytes);
  }
  return undefined;
}
