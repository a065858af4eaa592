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
export const DRAWN: readonly string[] = ['color', 'opacity', 'cutoff'];

/** A text without the defaults of its dials: what is left decides the graph and the shader. */
function shapeOf({ tree, dials }: Program): string {
  let shape = '';
  let at = 0;
  for (const { valueSpan } of [...dials].sort((a, b) => a.valueSpan.from - b.valueSpan.from)) {
    shape += tree.text.slice(at, valueSpan.from);
    at = valueSpan.to;
  }
  return shape + tree.text.slice(at);
}

/**
 * Reads, checks and compiles a text, from its first letter to GLSL. Pure; never throws on input. Where only
 * defaults of dials differ from `before`, its graph and shader are taken over.
 */
export function derive(text: string, before?: Derived): Derived {
  const program = check(parse(text));
  const values = settingValues(program);
  const same = before !== undefined && program.ok && before.program.ok && shapeOf(program) === shapeOf(before.program);
  const graph = same ? before.look.graph : lower(program, values.switches);
  const diagnostics = [...program.diagnostics, ...graph.diagnostics];
  const ok = diagnostics.every((d) => d.severity !== 'error');
  const glsl = same ? before.look.glsl : emitGlsl(graph, new Map([...graph.outputs].filter(([name]) => DRAWN.includes(name))));
  return { text, program, diagnostics, ok, look: { program, graph, glsl, values } };
}
