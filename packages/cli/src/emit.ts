import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { packageCode, TARGETS, type CodeOptions, type SettingValues, type Target } from '@estela/core';
import { compiled, loadMaterial } from './material.ts';
import { fail, type Chosen } from './settings.ts';
import { say } from './wording.ts';

/** What a command was told of the code it writes. */
export interface ChosenCode extends Chosen {
  readonly target: string;
  readonly normalY: string;
  readonly out: string;
}

/** Reads `all`, or targets with commas between. */
function targetsOf(text: string): readonly Target[] {
  if (text === 'all') return TARGETS;
  const names = text.split(',').map((t) => t.trim());
  const wrong = names.find((n) => !TARGETS.some((t) => t === n));
  if (wrong !== undefined) fail(say.takes('--target', `${TARGETS.join(', ')} or all`, wrong));
  return TARGETS.filter((t) => names.includes(t));
}

/** What was asked for, as core takes it; `settings` are of a material that is read. Throws where an option is wrong. */
export function codeOptions(
  { target, normalY, variant, set }: ChosenCode,
  settings: SettingValues | undefined,
): CodeOptions {
  if (normalY !== 'up' && normalY !== 'down') fail(say.takes('--normal-y', 'up or down', normalY));
  return { targets: targetsOf(target), normalY, variant, ...(set.length > 0 ? { values: settings } : {}) };
}

/**
 * Writes a material's code and manifest into a folder, named by its title; 1 where it does not compile. Throws where an
 * option is wrong.
 */
export async function emitMaterial(file: string, options: ChosenCode): Promise<number> {
  codeOptions(options, undefined);
  const material = await loadMaterial(file, undefined);
  // The code names its images; whether they are at hand does not matter here.
  const made = compiled(file, { ...material, diagnostics: material.program.diagnostics }, options);
  if (!made) return 1;
  const files = packageCode(material.program, codeOptions(options, made.settings));
  await mkdir(options.out, { recursive: true });
  for (const [name, text] of files) await writeFile(join(options.out, name), text);
  console.log(say.wrote([...files.keys()].join(', '), options.out));
  return 0;
}
