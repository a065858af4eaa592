import { readFile } from 'node:fs/promises';
import {
  check,
  compile,
  lineAndColumn,
  missingImage,
  parse,
  refusedImage,
  type Diagnostic,
  type Graph,
  type PackageImage,
  type Program,
  type SettingValues,
} from '@estela/core';
import { chosenSettings, type Chosen } from './settings.ts';
import { readSource } from './sources.ts';
import { say } from './wording.ts';

/** A material read from a file, with its images and everything found wrong so far. */
export interface LoadedMaterial {
  readonly text: string;
  readonly program: Program;
  /** By the names that the text gives them. */
  readonly images: ReadonlyMap<string, PackageImage>;
  readonly diagnostics: readonly Diagnostic[];
}

/** Reads a file; a missing or unreadable one is an Error with a plain sentence. */
export async function loadMaterial(file: string, sources: string | undefined): Promise<LoadedMaterial> {
  const text = await readFile(file, 'utf8').catch((error: unknown) => {
    const isGone = error instanceof Error && 'code' in error && error.code === 'ENOENT';
    throw new Error(say.unreadable(file, isGone ? say.noSuchFile : String(error)));
  });
  const program = check(parse(text));
  const images = new Map<string, PackageImage>();
  const diagnostics = [...program.diagnostics];
  for (const image of program.images) {
    try {
      const pixels = await readSource(sources, image.source);
      if (pixels) images.set(image.name, pixels);
      else diagnostics.push(missingImage(image, 'was found'));
    } catch (error) {
      diagnostics.push(refusedImage(image, error instanceof Error ? error.message : 'cannot be read.'));
    }
  }
  diagnostics.sort((a, b) => a.from - b.from);
  return { text, program, images, diagnostics };
}

/** "file:line:column: error: sentence", as compilers print. */
export function printed(file: string, text: string, d: Diagnostic): string {
  const { line, column } = lineAndColumn(text, d.from);
  return `${file}:${String(line)}:${String(column)}: ${d.severity}: ${d.message}`;
}

/** A material that compiles, with its dials and switches settled. */
export interface CompiledMaterial {
  readonly graph: Graph;
  readonly settings: SettingValues;
}

/**
 * Compiles a material for a variant and `--set` pairs; undefined where it has errors, limits included. They are printed
 * to standard error, warnings too.
 */
export function compiled(
  file: string,
  { text, program, diagnostics }: LoadedMaterial,
  chosen: Chosen,
): CompiledMaterial | undefined {
  const passes = (found: readonly Diagnostic[]): boolean => {
    for (const d of found) if (d.severity !== 'note') console.error(printed(file, text, d));
    return found.every((d) => d.severity !== 'error');
  };
  if (!passes(diagnostics)) return undefined;
  const settings = chosenSettings(program, chosen);
  const { graph } = compile(program, { values: settings });
  return passes(graph.diagnostics) ? { graph, settings } : undefined;
}
