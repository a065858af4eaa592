import { hexOfColor } from '../ops/value-type.ts';
import type { Program } from '../check/program.ts';
import { emitShader } from '../backends/shader/emit.ts';
import { GLSL } from '../backends/shader/glsl.ts';
import { compileOrThrow } from '../compile.ts';
import type { SettingValues } from '../check/values.ts';
import { sourceName } from '../ir/node.ts';
import { dialsInUnits } from './dials.ts';

/** A material for another program: its shader text, and what its host must set. */
export interface GlslPackage {
  readonly shader: string;
  readonly manifest: object;
}

/**
 * Writes all outputs of a material as one GLSL ES 3.00 function, with a manifest of its dials, uniforms and images.
 * Throws where it has errors, limits included.
 */
export function exportGlsl(program: Program, values: SettingValues): GlslPackage {
  const { graph } = compileOrThrow(program, { values });
  const glsl = emitShader(GLSL, graph, graph.outputs);
  const shader = [
    '#version 300 es',
    'precision highp float;',
    'precision highp int;',
    '',
    `// ${program.title || 'Untitled'}`,
    glsl.code,
  ].join('\n');
  const { loop, surface } = program;
  const manifest = {
    title: program.title,
    loop,
    surface,
    function: { name: 'material', inputs: glsl.inputs, outputs: glsl.outputs.map((o) => o.name) },
    dials: dialsInUnits(program),
    variants: program.variants.map((v) => ({
      name: v.name,
      values: Object.fromEntries(
        [...v.values].map(([name, value]) => [
          name,
          value.length === 4 ? hexOfColor(value) : value.length === 1 ? value[0] : value,
        ]),
      ),
    })),
    uniforms: glsl.uniforms.map((u) => ({
      name: u.name,
      type: u.type,
      from: u.node.kind === 'uniform' ? sourceName(u.node.payload) : 'computed each frame',
    })),
    images: glsl.samplers.map(({ name, slot }) => ({
      uniform: name,
      source: slot.source,
      wrap: slot.wrap,
      filter: slot.filter,
      encoding: slot.encoding,
    })),
  };
  return { shader, manifest };
}
