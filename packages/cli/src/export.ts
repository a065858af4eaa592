import { mkdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises';
import { dirname } from 'node:path';
import { zipOf } from '@estela/codecs/files';
import { packageHost } from '@estela/codecs/node';
import { materialPackage, missingImage } from '@estela/core';
import { codeOptions, type ChosenCode } from './emit.ts';
import { compiled, loadMaterial, printed } from './material.ts';
import { fail } from './settings.ts';

/** The built page that plays a package. */
const PLAYER = new URL('../../player/dist/index.html', import.meta.url);

/**
 * Writes a material as a package; 1 where it has errors, or lacks an image that is not knowingly left out: nothing is
 * written then. Throws where an option is wrong.
 */
export async function exportMaterial(
  file: string,
  options: ChosenCode & { readonly sources?: string; readonly leaveOutMissing?: boolean },
): Promise<number> {
  codeOptions(options, undefined);
  const material = await loadMaterial(file, options.sources);
  const { program, images, text } = material;
  const left = program.images.filter((i) => !images.has(i.name));
  if (options.leaveOutMissing === true)
    for (const image of left) console.error(`${printed(file, text, missingImage(image, 'was found'))} It is left out.`);
  const made = compiled(
    file,
    options.leaveOutMissing === true ? { ...material, diagnostics: program.diagnostics } : material,
    options,
  );
  if (!made) return 1;
  if (left.length > 0 && options.leaveOutMissing !== true) {
    console.error('Nothing was written. --leave-out-missing writes a package without what is missing.');
    return 1;
  }
  const files = materialPackage(
    program,
    {
      ...codeOptions(options, made.settings),
      images: new Map(program.images.flatMap((i) => (images.has(i.name) ? [[i.source, images.get(i.name)!]] : []))),
    },
    packageHost(await readFile(PLAYER, 'utf8')),
  );
  const zip = zipOf(files);
  if ((await stat(options.out).catch(() => undefined))?.isDirectory() === true)
    fail(`${options.out} is a folder: --out takes the zip's own name.`);
  await mkdir(dirname(options.out), { recursive: true });
  // A zip is there whole or not at all.
  const half = `${options.out}.part`;
  try {
    await writeFile(half, zip);
    await rename(half, options.out);
  } finally {
    await rm(half, { force: true });
  }
  console.log(`Wrote ${options.out}: ${String(files.size)} files, ${String(Math.ceil(zip.length / 1000))} kB.`);
  return 0;
}
