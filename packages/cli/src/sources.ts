import { readFile } from 'node:fs/promises';
import { join, resolve, sep } from 'node:path';
import type { PixelImage } from '@estela/core';
import { PNG } from 'pngjs';

/** The pixels of a source in a folder: the name as it is, or with .png behind; undefined where there is none. */
export async function readSource(folder: string | undefined, name: string): Promise<PixelImage | undefined> {
  if (folder === undefined) return undefined;
  const root = resolve(folder);
  for (const candidate of [name, `${name}.png`]) {
    const path = join(root, candidate);
    if (!path.startsWith(root + sep)) continue;
    const bytes = await readFile(path).catch(() => undefined);
    if (!bytes) continue;
    const png = PNG.sync.read(bytes);
    return { width: png.width, height: png.height, data: new Uint8Array(png.data) };
  }
  return undefined;
}
