import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { check, compileOrThrow, emitShader, evaluateFrame, forSoftware, GLSL, parse } from '@estela/core';
import { coreBefore, filesBefore } from './before.ts';
import type { Shader } from './page.ts';

const HEAD = '#version 300 es\nprecision highp float;\nprecision highp int;\nprecision highp sampler2D;\n';
/** What a pixel knows, by its names of now and of then. */
const INPUTS: Readonly<Record<string, string>> = {
  uv: 'v_uv',
  uv2: 'v_uv',
  screen: 'v_uv',
  position: 'vec3(v_uv - 0.5, 0.0)',
  world: 'vec3(v_uv - 0.5, 0.0)',
  vertex_color: 'vec4(1.0)',
  facing: '1.0',
  depth_behind: '1000000.0',
  gap: '1000000.0',
};
const FRAMES = 4;

interface Emitted {
  readonly code: string;
  readonly inputs: readonly string[];
  readonly outputs: readonly { readonly name: string; readonly type: string }[];
}

/** All outputs count, so that none is left out. */
const sum = (parts: readonly { readonly value: string; readonly type: string }[]): string =>
  parts
    .map(({ value, type }) =>
      type === 'f4'
        ? value
        : type === 'f3'
          ? `vec4(${value}, 1.0)`
          : type === 'f2'
            ? `${value}.xyxy`
            : `vec4(${value})`,
    )
    .join(' + ');

function shaderOf(glsl: Emitted, isBefore: boolean, uniforms: Shader['uniforms']): Shader {
  const args = glsl.inputs.map((name) => INPUTS[name]!);
  const types = { f1: 'float', f2: 'vec2', f3: 'vec3', f4: 'vec4' } as const;
  const typeOf = (type: string): string => types[type as keyof typeof types];
  const body = isBefore
    ? `${glsl.outputs.map(({ name, type }) => `${typeOf(type)} o_${name};`).join(' ')}
       material(${[...args, ...glsl.outputs.map(({ name }) => `o_${name}`)].join(', ')});
       fragment = ${sum(glsl.outputs.map(({ name, type }) => ({ value: `o_${name}`, type })))};`
    : `material_Outputs o = material(${[...args, 'host_frame'].join(', ')});
       fragment = ${sum(glsl.outputs.map(({ name, type }) => ({ value: `o.${name}`, type })))};`;
  const frame = isBefore ? '' : 'uniform material_Frame host_frame;\n';
  return {
    fragment: `${HEAD}${glsl.code}\nin vec2 v_uv;\nout vec4 fragment;\n${frame}void main() { ${body} }\n`,
    uniforms,
  };
}

/** Values of uniforms in some frames of a loop. */
const valuesOf = <Node extends object>(
  uniforms: readonly { readonly name: string; readonly type: string; readonly node: Node }[],
  prefix: string,
  evaluate: (nodes: Node[], time: number) => ReadonlyMap<Node, readonly number[]>,
): Shader['uniforms'] => {
  const frames = Array.from({ length: FRAMES }, (_, i) =>
    evaluate(
      uniforms.map((u) => u.node),
      i / 7,
    ),
  );
  return uniforms.map((u) => ({
    name: prefix + u.name,
    isFloat: u.type.startsWith('f'),
    frames: frames.map((values) => [...values.get(u.node)!]),
  }));
};

/** The shaders of each demo material: of now, and of the state before and its texts. */
export async function stageShaders(root: string): Promise<{ material: string; now: Shader; before: Shader }[]> {
  const before = await coreBefore(root);
  const old = join(filesBefore(root), 'demo/materials');
  return readdirSync(old)
    .filter((name) => name.endsWith('.wake'))
    .map((name) => {
      const { graph, values } = compileOrThrow(check(parse(readFileSync(join(root, 'demo/materials', name), 'utf8'))));
      const glsl = emitShader(GLSL, graph, graph.outputs);
      const program = before.check(before.parse(readFileSync(join(old, name), 'utf8')));
      const { dials, switches } = before.settingValues(program);
      const was = before.lower(program, switches);
      const then = before.emitGlsl(was, was.outputs);
      return {
        material: name.replace('.wake', ''),
        now: shaderOf(
          { ...glsl, code: forSoftware(glsl.code) },
          false,
          valuesOf(glsl.uniforms, 'host_frame.', (nodes, time) => evaluateFrame(nodes, { time, dials: values.dials })),
        ),
        before: shaderOf(
          then,
          true,
          valuesOf(then.uniforms, '', (nodes, time) => before.evaluateFrame(nodes, { time, dials })),
        ),
      };
    });
}
