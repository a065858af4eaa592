import { mkdir, writeFile } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { exportGlsl } from '@estela/core';
import { loadMaterial, printed } from './material.ts';
import { chosenSettings, fail } from './settings.ts';

/** Writes NAME.glsl and NAME.json into a folder; 1 where the material has errors, 2 where an option is wrong. */
export async function emitMaterial(file: string, options: { target: string; out: string; set: readonly string[]; variant?: string }): Promise<number> {
  try {
    if (options.target !== 'glsl') fail(`--target takes glsl, not '${options.target}'.`);
    const { text, program } = await loadMaterial(file, undefined);
    for (const d of program.diagnostics) if (d.severity === 'error') console.error(printed(file, text, d));
    if (!program.ok) return 1;
    const { shader, manifest } = exportGlsl(program, chosenSettings(program, options.variant, options.set));
    const name = basename(file, '.wake');
    await mkdir(options.out, { recursive: true });
    await writeFile(join(options.out, `${name}.glsl`), shader);
    await writeFile(join(options.out, `${name}.json`), `${JSON.stringify(manifest, undefined, 2)}\n`);
    console.log(`Wrote ${name}.glsl and ${name}.json to ${options.out}.`);
    return 0;
  } catch (error) {
    console.error(error instanceof Error ? error.message : String(error));
    return 2;
  }
}
