import { check } from './check/check.ts';
import type { Program } from './check/program.ts';
import { settingValues, type SettingValues } from './check/values.ts';
import type { Diagnostic } from './diagnostics/diagnostic.ts';
import { parse } from './lang/parse.ts';
import type { SyntaxTree } from './lang/tree.ts';
import { lower, type Graph } from './lower/lower.ts';

/** What a material is compiled for: its base where nothing is said. */
export interface Settings {
  readonly variant?: string | undefined;
  /** Values of dials and switches, in place of those of the variant or base. */
  readonly values?: SettingValues;
}

/** What the stages make of a text, in order. */
interface Made {
  readonly text: string;
  readonly tree: SyntaxTree;
  readonly program: Program;
  readonly values: SettingValues;
  readonly graph: Graph;
}

type Stage = {
  [K in Exclude<keyof Made, 'text'>]: {
    readonly makes: K;
    readonly run: (made: Made, settings: Settings) => Made[K];
    /** What it found wrong. Values of what comes before are in it already. */
    readonly found?: (made: Made[K]) => readonly Diagnostic[];
  };
}[Exclude<keyof Made, 'text'>];

/** From text to graph. No stage throws or gives up: after an error it goes on with neutral values. */
export const PIPELINE: readonly Stage[] = [
  { makes: 'tree', run: ({ text }) => parse(text) },
  { makes: 'program', run: ({ tree }) => check(tree), found: (program) => program.diagnostics },
  {
    makes: 'values',
    run: ({ program }, { variant, values }) => values ?? settingValues(program, variant),
  },
  // What only expanding can tell: limits.
  {
    makes: 'graph',
    run: ({ program, values }) => lower(program, values.switches),
    found: (graph) => graph.diagnostics,
  },
];

/** A material compiled for one setting, and all that was found on the way. */
export interface Compiled {
  readonly program: Program;
  readonly values: SettingValues;
  readonly graph: Graph;
  /** What each stage found, limits last. */
  readonly diagnostics: readonly Diagnostic[];
  /** No errors: only then does the graph stand for the text. */
  readonly ok: boolean;
}

/** Compiles a text, or a program that is checked already. Never throws. */
export function compile(source: string | Program, settings: Settings = {}): Compiled {
  const given: Partial<Made> = typeof source === 'string' ? { text: source } : { program: source, tree: source.tree };
  const made = { ...given } as Record<keyof Made, unknown>;
  const diagnostics: Diagnostic[] = [];
  for (const { makes, run, found } of PIPELINE) {
    made[makes] ??= run(made as Made, settings);
    diagnostics.push(...((found as ((value: unknown) => readonly Diagnostic[]) | undefined)?.(made[makes]) ?? []));
  }
  const { program, values, graph } = made as Made;
  return { program, values, graph, diagnostics, ok: diagnostics.every((d) => d.severity !== 'error') };
}

/** As `compile`, of a material that must have no errors. Throws with the sentence of the first where it has. */
export function compileOrThrow(source: string | Program, settings: Settings = {}): Compiled {
  const compiled = compile(source, settings);
  if (!compiled.ok) throw new Error(compiled.diagnostics.find((d) => d.severity === 'error')!.message);
  return compiled;
}
