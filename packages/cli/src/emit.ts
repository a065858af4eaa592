import { mkdir, writeFile } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { exportGlsl } from '@estela/core';
import { compiled, loadMaterial } from './material.ts';
import { fail, type Chosen } from './settings.ts';

/** Writes NAME.glsl and NAME.json into a folder; 1 where the material does not compile. Throws where an option is wrong. */
export async function emitMaterial(file: string, options: Chosen & { target: string; out: string }): Promise<number> {
  if (options.target !== 'glsl') fail(`--target takes glsl, not '${options.target}'.`);
  const material = await loadMaterial(file, undefined);
  // The shader names its images; whether they are at hand does not matter here.
  const made = compiled(file, { ...material, diagnostics: material.program.diagnostics }, options);
  if (!made) return 1;
  const { shader, manifest } = exportGlsl(material.program, made.settings);
  const name = basename(file, '.wake');
  await mkdir(options.out, { recursive: true });
  await writeFile(join(options.out, `${name}.glsl`), shader);
  await writeFile(join(options.out, `${name}.json`), `${JSON.stringify(manifest, undefined, 2)}\n`);
  console.log(`Wrote ${name}.glsl and ${name}.json to ${options.out}.`);
  return 0;
}
