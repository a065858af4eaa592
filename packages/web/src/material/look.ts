import {
  check,
  compile,
  parse,
  settingValues,
  stageShader,
  type Diagnostic,
  type ShaderMaterial,
  type Graph,
  type Program,
  type SettingValues,
} from '@estela/core';

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
export interface Drawable {
  readonly program: Pick<Program, 'surface' | 'loop'>;
  readonly glsl: ShaderMaterial;
  readonly values: Pick<SettingValues, 'dials'>;
}

/** With what it was compiled from. */
export interface Look extends Drawable {
  readonly program: Program;
  readonly graph: Graph;
  readonly values: SettingValues;
}

/**
 * The words of a text without comments, help and the defaults of its dials: what is left decides the graph and the
 * shader.
 */
function shapeOf({ tree, dials }: Program): string {
  const defaults = dials.map((d) => d.valueSpan).sort((a, b) => a.from - b.from);
  const helps = new Set(
    tree.statements.flatMap((s) => (s.kind === 'dial' || s.kind === 'switch' || s.kind === 'material' ? [s.to] : [])),
  );
  let next = 0;
  let shape = '';
  for (const { kind, from, to, text } of tree.tokens) {
    while ((defaults[next]?.to ?? Infinity) <= from) next++;
    const isDefault = (defaults[next]?.from ?? Infinity) <= from;
    const isNewline = kind === 'newline';
    if (kind === 'comment' || isDefault || (isNewline && shape.endsWith('\n')) || (kind === 'string' && helps.has(to)))
      continue;
    shape += isNewline ? '\n' : `${text} `;
  }
  return shape;
}

/** Reads and checks a text; what can be drawn of it is still that of `before`. */
export function read(text: string, before: Derived): Derived {
  const program = check(parse(text));
  return { text, program, diagnostics: program.diagnostics, ok: program.ok, look: before.look };
}

/**
 * Reads, checks and compiles a text, from its first letter to GLSL. Pure; never throws on input. Where only
 * defaults of dials differ from `before`, its graph and shader are taken over.
 */
export function derive(text: string, before?: Derived, program = check(parse(text))): Derived {
  const values = settingValues(program);
  const same =
    before !== undefined && program.ok && before.look.program.ok && shapeOf(program) === shapeOf(before.look.program);
  const { graph } = same ? before.look : compile(program, { values });
  const diagnostics = [...program.diagnostics, ...graph.diagnostics];
  const ok = diagnostics.every((d) => d.severity !== 'error');
  const glsl = same ? before.look.glsl : stageShader(program, graph);
  return { text, program, diagnostics, ok, look: { program, graph, glsl, values } };
}
