import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { expect } from '@jest/globals';
import {
  applyEdits,
  check,
  parse,
  Reference,
  settingValues,
  type Diagnostic,
  type Graph,
  type Program,
  type Value,
} from '../src/index.ts';
import { lower } from '../src/lower/lower.ts';

export const checked = (text: string): Program => check(parse(text));

export function graphOf(text: string): Graph {
  const program = checked(text);
  if (!program.ok) throw new Error(program.diagnostics.map((d) => d.message).join('\n'));
  return lower(program);
}

/** The value of the last step of a name at a pixel and moment, by the reference. */
export function valueAt(text: string, step: string, uv: Value, time: number): Value {
  const program = checked(text);
  const graph = lower(program);
  const index = program.steps.findLast((s) => s.name === step)?.index ?? -1;
  const reference = new Reference([graph.steps[index]!]);
  reference.setFrame({ time, dials: settingValues(program).dials });
  return reference.pixel({ uv })[0]!;
}

export const lineOf = (text: string, offset: number): number => text.slice(0, offset).split('\n').length;

/** The text after a diagnostic's fix. */
export const fixed = (text: string, d: Diagnostic, fix = 0): string => applyEdits(text, d.fixes[fix]!.edits);

const textsIn = (folder: string): readonly { readonly name: string; readonly text: string }[] => {
  const at = fileURLToPath(new URL(`../../../demo/${folder}/`, import.meta.url));
  return readdirSync(at)
    .filter((f) => f.endsWith('.wake'))
    .map((name) => ({ name, text: readFileSync(join(at, name), 'utf8') }));
};
export const demoMaterials = textsIn('materials');
export const starts = textsIn('starts');

/** What a real GLSL compiler says to fragment shaders; nothing where it takes them all. */
export function glslComplaints(
  shaders: readonly { readonly name: string; readonly source: string }[],
  options: readonly string[] = [],
): string {
  const folder = mkdtempSync(join(tmpdir(), 'estela-glsl-'));
  const paths = shaders.map(({ name, source }) => {
    const path = join(folder, `${name.replace(/[^\w.-]/g, '_')}.frag`);
    writeFileSync(path, source);
    return path;
  });
  const { status, stdout, stderr, error } = spawnSync('glslangValidator', [...options, ...paths], { encoding: 'utf8' });
  if (error) throw new Error(`glslangValidator (Debian: glslang-tools) cannot be run: ${error.message}`);
  return status === 0 ? '' : `${stdout}${stderr}`;
}

/** Stands for a number within half a unit of a decimal place, inside what `toEqual` compares. */
export const near = (value: number, digits: number): number => expect.closeTo(value, digits) as unknown as number;

const packages = fileURLToPath(new URL('../../', import.meta.url));
/** The source files of all packages but their tests, by path. */
export function sources(): [file: string, text: string][] {
  return readdirSync(packages).flatMap((name) => {
    const folder = join(packages, name, 'src');
    return existsSync(folder)
      ? readdirSync(folder, { recursive: true, encoding: 'utf8' })
          .filter((f) => /\.tsx?$/.test(f))
          .map((f): [string, string] => {
            const path = join(name, 'src', f);
            return [path, readFileSync(join(packages, path), 'utf8')];
          })
      : [];
  });
}

/** A source text without its comments. */
export const code = (text: string): string => text.replace(/\/\*[^]*?\*\/|^\s*\/\/.*$/gm, '');
