import { emitShader, type ShaderMaterial } from '../backends/shader/emit.ts';
import { GLSL } from '../backends/shader/glsl.ts';
import type { Loop, Program, Surface } from '../check/program.ts';
import { compile } from '../compile.ts';
import { evaluateFrame } from '../ir/evaluate.ts';
import type { Node } from '../ir/node.ts';
import type { Graph } from '../lower/lower.ts';

/** What is seen of an unlit material. */
const UNLIT: ReadonlySet<string> = new Set(['color', 'opacity', 'cutoff', 'refraction']);

/** The shader that the Stage draws a material with: of an unlit one no more than its light. */
export const stageShader = ({ surface }: Program, graph: Graph): ShaderMaterial =>
  emitShader(GLSL, graph, new Map([...graph.outputs].filter(([name]) => surface.lit || UNLIT.has(name))));

/** A material as it is at the start of its loop: all that it takes to draw it once. Plain data. */
export interface FirstPicture {
  readonly surface: Surface;
  readonly loop: Loop;
  /** Its frame is made of constants; it tells no dials. */
  readonly glsl: ShaderMaterial;
}

/** The first picture of a text; undefined where it has errors, shows nothing, or a value of it is not finite. */
export function firstPicture(text: string): FirstPicture | undefined {
  const { program, values, graph, ok } = compile(text);
  if (!ok) return undefined;
  const glsl = stageShader(program, graph);
  if (glsl.outputs.length === 0) return undefined;
  const frame = evaluateFrame(
    glsl.uniforms.map((u) => u.node),
    { time: 0, dials: values.dials },
  );
  const uniforms = glsl.uniforms.map((u, id) => {
    const node: Node = {
      id,
      kind: 'constant',
      type: u.type,
      args: [],
      payload: frame.get(u.node) ?? [0],
      frequency: 'constant',
    };
    return { ...u, node };
  });
  if (!uniforms.every(({ node }) => node.payload.every(Number.isFinite))) return undefined;
  return { surface: program.surface, loop: program.loop, glsl: { ...glsl, uniforms, dials: [] } };
}
