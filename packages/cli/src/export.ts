import { readFile } from 'node:fs/promises';
import { zipOf } from '@estela/codecs/files';
import { packageHost } from '@estela/codecs/node';
import { materialPackage, missingImage } from '@estela/core';
import { codeOptions, type ChosenCode } from './emit.ts';
import { gltfOptions, writeGltf, type GltfArguments } from './gltf.ts';
import { compiled, loadMaterial, printed, type CompiledMaterial, type LoadedMaterial } from './material.ts';
import { fail } from './settings.ts';
import { needFileName, writeWhole } from './whole-file.ts';
import { say } from './wording.ts';

/** The built page that plays a package. */
const PLAYER = new URL('../../player/dist/index.html', import.meta.url);

/** What a command was told of what is to leave: a package, a GLB, or both. */
export interface ExportArguments extends Omit<ChosenCode, 'out'>, Omit<GltfArguments, 'gltf'> {
  readonly out?: string;
  readonly gltf?: string;
  readonly sources?: string;
  readonly leaveOutMissing?: boolean;
}

/**
 * Writes a material as a package or a GLB; 1 where it has errors, or lacks an image that is not knowingly left out:
 * nothing is written then. Throws where an option is wrong.
 */
export async function exportMaterial(file: string, options: ExportArguments): Promise<number> {
  const { out, gltf } = options;
  if (out === undefined && gltf === undefined) fail(say.nowhereToWrite);
  codeOptions({ ...options, out: out ?? '' }, undefined);
  if (gltf !== undefined) gltfOptions(options);
  for (const path of [out, gltf]) if (path !== undefined) await needFileName(path);
  const material = await loadMaterial(file, options.sources);
  const { program, images, text } = material;
  const left = program.images.filter((i) => !images.has(i.name));
  if (options.leaveOutMissing === true)
    for (const image of left) console.error(say.leftOut(printed(file, text, missingImage(image, 'was found'))));
  const made = compiled(
    file,
    options.leaveOutMissing === true ? { ...material, diagnostics: program.diagnostics } : material,
    options,
  );
  if (!made) return 1;
  if (left.length > 0 && options.leaveOutMissing !== true) {
    console.error(say.imagesMissing);
    return 1;
  }
  if (gltf !== undefined) await writeGltf(program, images, made.settings, { ...options, gltf });
  if (out !== undefined) await writePackage(material, made, { ...options, out });
  return 0;
}

async function writePackage(
  { program, images }: LoadedMaterial,
  { settings }: CompiledMaterial,
  options: ChosenCode,
): Promise<void> {
  const files = materialPackage(
    program,
    {
      ...codeOptions(options, settings),
      images: new Map(program.images.flatMap((i) => (images.has(i.name) ? [[i.source, images.get(i.name)!]] : []))),
    },
    packageHost(await readFile(PLAYER, 'utf8')),
  );
  const zip = zipOf(files);
  await writeWhole(options.out, zip);
  console.log(say.wroteFile(options.out, zip.length, files.size));
}
