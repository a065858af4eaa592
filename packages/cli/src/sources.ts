import { readFile } from 'node:fs/promises';
import { join, resolve, sep } from 'node:path';
import { IMAGE_TYPES } from '@estela/codecs';
import { nodeDecoder, packageImage } from '@estela/codecs/node';
import type { PackageImage } from '@estela/core';

const decoder = nodeDecoder();

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
    return packageImage(decoder, bytes);
  }
  return undefined;
}
