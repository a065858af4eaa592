import type { Program } from './check/program.ts';
import { settingValues, type SettingValues } from './check/values.ts';
import type { Diagnostic } from './diagnostics/diagnostic.ts';
import { lower, type Graph } from './lower/lower.ts';

/** A program with its graph for one setting, and all that was found on the way. */
export interface Compiled {
  readonly program: Program;
  readonly values: SettingValues;
  readonly graph: Graph;
  /** What checking found, then what is beyond a limit. */
  readonly diagnostics: readonly Diagnostic[];
  /** No errors: only then does the graph stand for the text. */
  readonly ok: boolean;
}

/**
 * Compiles a checked program with the values of its dials and switches; those of its base where none are given. Never
 * throws.
 */
export function compile(program: Program, values = settingValues(program)): Compiled {
  const graph = lower(program, values.switches);
  const diagnostics = [...program.diagnostics, ...graph.diagnostics];
  return { program, values, graph, diagnostics, ok: diagnostics.every((d) => d.severity !== 'error') };
}

/** The graph of a program that must have no errors. Throws with the sentence of the first where it has. */
export function graphFor(program: Program, values: SettingValues): Graph {
  const { graph, ok, diagnostics } = compile(program, values);
  if (!ok) throw new Error(diagnostics.find((d) => d.severity === 'error')!.message);
  return graph;
}
