import { check, emitGlsl, lower, parse, settingValues, type Diagnostic, type GlslMaterial, type Graph, type Program, type SettingValues } from '@estela/core';

/** Everything derived from a text that the Bench shows. */
export interface Derived {
  readonly text: string;
  readonly program: Program;
  readonly diagnostics: readonly Diagnostic[];
  /** No errors. */
  readonly ok: boolean;
  /** What can be drawn; where the text has errors, with the steps in error neutral. */
  readonly look: Look;
}

/** A material ready to be drawn. Equal `glsl.code` means that a running shader can stay. */
export interface Look {
  readonly program: Program;
  readonly graph: Graph;
  readonly glsl: GlslMaterial;
  readonly values: SettingValues;
}

/** What the Stage draws of a material for now; the other channels join with lit surfaces. */
const DRAWN = ['color', 'opacity', 'cutoff'];

/** Reads, checks and compiles a text, from its first letter to GLSL. Pure; never throws on input. */
export function derive(text: string): Derived {
  const program = check(parse(text));
  const values = settingValues(program);
  const graph = lower(program, values.switches);
  const diagnostics = [...program.diagnostics, ...graph.diagnostics];
  const ok = diagnostics.every((d) => d.severity !== 'error');
  const glsl = emitGlsl(graph, new Map([...graph.outputs].filter(([name]) => DRAWN.includes(name))));
  return { text, program, diagnostics, ok, look: { program, graph, glsl, values } };
}
