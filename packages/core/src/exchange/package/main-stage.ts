import type { ShaderMaterial } from '../../backends/shader/emit.ts';
import type { Dialect } from '../../backends/shader/dialect.ts';
import { GLSL } from '../../backends/shader/glsl.ts';
import { HLSL } from '../../backends/shader/hlsl.ts';
import { WGSL } from '../../backends/shader/wgsl.ts';
import type { Surface } from '../../check/program.ts';
import { widthOf, type IrType, type PixelInput } from '../../ir/node.ts';
import { std140, type Placed } from './layout.ts';

/** Languages that a material is written in for a graphics card. */
export const SHADER_TARGETS = ['glsl', 'hlsl', 'wgsl'] as const;
export type ShaderTarget = (typeof SHADER_TARGETS)[number];
export const DIALECTS: Readonly<Record<ShaderTarget, Dialect>> = { glsl: GLSL, hlsl: HLSL, wgsl: WGSL };

/** The uniform block of a complete stage: dials in Wake's units, then seconds, by a name that no dial has. */
export function blockOf({ dials }: ShaderMaterial): {
  readonly fields: readonly Placed[];
  readonly size: number;
  readonly time: string;
} {
  let time = 'time';
  for (let n = 2; dials.some((d) => d.name === time); n++) time = `time_${String(n)}`;
  return { ...std140([...dials.map(({ name, type }) => ({ name, type })), { name: time, type: 'f1' }]), time };
}

/** What a newcomer's stage gives for inputs: a unit square that is seen straight on, with nothing behind it. */
function inputsOf(vector: (width: 3 | 4, parts: string) => string): Readonly<Record<PixelInput, string>> {
  const place = vector(3, 'v_uv.x - 0.5, 0.5 - v_uv.y, 0.0');
  return {
    uv: 'v_uv',
    uv2: 'v_uv',
    screen: 'v_uv',
    position: place,
    world: place,
    vertex_color: vector(4, '1.0, 1.0, 1.0, 1.0'),
    facing: '1.0',
    depth_behind: '1.0e6',
  };
}

export interface Stage {
  readonly name: string;
  readonly shader: ShaderMaterial;
  readonly surface: Surface;
}

const has = ({ outputs }: ShaderMaterial, name: string): boolean => outputs.some((o) => o.name === name);

/** What the stage shows: sRGB with straight opacity, which is 1 where the surface is opaque. */
function shown(
  { shader, surface }: Stage,
  vector: (width: 3 | 4, parts: string) => string,
): { color: string; opacity: string } {
  const color = has(shader, 'color') ? 'result.color.rgb' : vector(3, '0.18, 0.18, 0.18');
  const opacity = has(shader, 'opacity') ? 'result.opacity' : has(shader, 'color') ? 'result.color.a' : '1.0';
  return { color, opacity: surface.mode === 'opaque' ? '1.0' : `clamp(${opacity}, 0.0, 1.0)` };
}

const call = (
  { shader: { names, inputs } }: Stage,
  given: Readonly<Record<PixelInput, string>>,
  frame: string,
): string => `${names.material}(${[...inputs.map((i) => given[i]), frame].join(', ')})`;

const GLSL_HEAD = [
  '#version 300 es',
  'precision highp float;',
  'precision highp int;',
  'precision highp sampler2D;',
  '',
];
const glslVector = (width: number, parts: string): string => `vec${String(width)}(${parts})`;
const glslSrgb = (name: string): string[] => [
  `vec3 ${name}_srgb(vec3 c) {`,
  '  c = clamp(c, 0.0, 1.0);',
  '  return mix(1.055 * pow(c, vec3(1.0 / 2.4)) - 0.055, c * 12.92, lessThanEqual(c, vec3(0.0031308)));',
  '}',
  '',
];

function glslStage(stage: Stage): string {
  const { name, shader } = stage;
  const { color, opacity } = shown(stage, glslVector);
  const { fields, time } = blockOf(shader);
  return [
    ...GLSL_HEAD,
    shader.code,
    `layout(std140) uniform ${name}_Block {`,
    ...fields.map((f) => `  ${GLSL.typeName(f.type)} ${name}_host_${f.name};`),
    '};',
    'in vec2 v_uv;',
    'out vec4 fragment;',
    '',
    ...glslSrgb(name),
    'void main() {',
    `  ${shader.names.Dials} dials;`,
    ...shader.dials.map((d) => `  dials.${d.name} = ${name}_host_${d.name};`),
    `  ${shader.names.Outputs} result = ${call(stage, inputsOf(glslVector), `${shader.names.frame}(dials, ${name}_host_${time})`)};`,
    `  fragment = vec4(${name}_srgb(${color}), ${opacity});`,
    '}',
    '',
  ].join('\n');
}

/** What an output looks like in a picture, as baked: light as sRGB, a normal from -1..1, the rest grey as it is. */
function pictured({ name }: Stage, output: { readonly name: string; readonly type: IrType }): string {
  const value = `result.${output.name}`;
  if (output.name === 'emissive') return `vec4(${name}_srgb(${value}.rgb), 1.0)`;
  if (output.name === 'normal') return `vec4(${value} * 0.5 + 0.5, 1.0)`;
  return widthOf(output.type) === 1 ? `vec4(vec3(${value}), 1.0)` : `vec4(vec3(${value}.x), 1.0)`;
}

/**
 * A fragment stage in GLSL ES 3.00 for a host that computes the frame itself: sets `player_frame` field by field, and
 * `player_output`, by index among the outputs.
 */
export function playerStage(stage: Stage): string {
  const { name, shader } = stage;
  const { color, opacity } = shown(stage, glslVector);
  return [
    ...GLSL_HEAD,
    shader.code,
    `uniform ${shader.names.Frame} player_frame;`,
    'uniform int player_output;',
    'in vec2 v_uv;',
    'out vec4 fragment;',
    '',
    ...glslSrgb(name),
    'void main() {',
    `  ${shader.names.Outputs} result = ${call(stage, inputsOf(glslVector), 'player_frame')};`,
    `  fragment = vec4(${name}_srgb(${color}), ${opacity});`,
    ...shader.outputs.flatMap((output, i) =>
      output.name === 'color' ? [] : [`  if (player_output == ${String(i)}) fragment = ${pictured(stage, output)};`],
    ),
    '}',
    '',
  ].join('\n');
}

function hlslStage(stage: Stage): string {
  const { name, shader } = stage;
  const vector = (width: number, parts: string): string => `float${String(width)}(${parts})`;
  const { color, opacity } = shown(stage, vector);
  const { fields, time } = blockOf(shader);
  // Where a field lies is said, so that it lies as in the other languages.
  const register = ({ offset }: Placed): string =>
    `packoffset(c${String(offset >> 4)}${offset % 16 === 0 ? '' : `.${'xyzw'[(offset % 16) / 4]!}`})`;
  return [
    shader.code,
    `cbuffer ${name}_Block : register(b0) {`,
    ...fields.map((f) => `  ${HLSL.typeName(f.type)} ${name}_host_${f.name} : ${register(f)};`),
    '};',
    '',
    `float3 ${name}_srgb(float3 c) {`,
    '  c = clamp(c, 0.0, 1.0);',
    '  float3 high = 1.055 * pow(c, (float3)(1.0 / 2.4)) - 0.055;',
    '  return (c <= (float3)0.0031308 ? c * 12.92 : high);',
    '}',
    '',
    'float4 main(float2 v_uv : TEXCOORD0) : SV_Target {',
    `  ${shader.names.Dials} dials;`,
    ...(shader.dials.length === 0 ? ['  dials.unused = 0.0;'] : []),
    ...shader.dials.map((d) => `  dials.${d.name} = ${name}_host_${d.name};`),
    `  ${shader.names.Outputs} result = ${call(stage, inputsOf(vector), `${shader.names.frame}(dials, ${name}_host_${time})`)};`,
    `  return float4(${name}_srgb(${color}), ${opacity});`,
    '}',
    '',
  ].join('\n');
}

function wgslStage(stage: Stage): string {
  const { name, shader } = stage;
  const vector = (width: number, parts: string): string => `vec${String(width)}<f32>(${parts})`;
  const { color, opacity } = shown(stage, vector);
  const { fields, time } = blockOf(shader);
  return [
    shader.code,
    `struct ${name}_Block {`,
    ...fields.map((f) => `  ${f.name}: ${WGSL.typeName(f.type)},`),
    '}',
    `@group(0) @binding(0) var<uniform> ${name}_host: ${name}_Block;`,
    '',
    `struct ${name}_Corner {`,
    '  @builtin(position) position: vec4<f32>,',
    '  @location(0) v_uv: vec2<f32>,',
    '}',
    '',
    '// A triangle that covers the target; v runs down.',
    '@vertex',
    `fn vs(@builtin(vertex_index) index: u32) -> ${name}_Corner {`,
    '  let v_uv = vec2<f32>(select(0.0, 2.0, index == 1u), select(0.0, 2.0, index == 2u));',
    `  return ${name}_Corner(vec4<f32>(v_uv.x * 2.0 - 1.0, 1.0 - v_uv.y * 2.0, 0.0, 1.0), v_uv);`,
    '}',
    '',
    `fn ${name}_srgb(linear: vec3<f32>) -> vec3<f32> {`,
    '  let c = clamp(linear, vec3<f32>(0.0), vec3<f32>(1.0));',
    '  return select(1.055 * pow(c, vec3<f32>(1.0 / 2.4)) - 0.055, c * 12.92, c <= vec3<f32>(0.0031308));',
    '}',
    '',
    '@fragment',
    'fn fs(@location(0) v_uv: vec2<f32>) -> @location(0) vec4<f32> {',
    `  var dials: ${shader.names.Dials};`,
    ...shader.dials.map((d) => `  dials.${d.name} = ${name}_host.${d.name};`),
    `  let result = ${call(stage, inputsOf(vector), `${shader.names.frame}(dials, ${name}_host.${time})`)};`,
    `  return vec4<f32>(${name}_srgb(${color}), ${opacity});`,
    '}',
    '',
  ].join('\n');
}

const STAGES: Readonly<Record<ShaderTarget, (stage: Stage) => string>> = {
  glsl: glslStage,
  hlsl: hlslStage,
  wgsl: wgslStage,
};

/**
 * A complete stage that draws a material over the unit square, for a first look. Entries: `main`; in WGSL `vs` and `fs`.
 */
export const mainStage = (target: ShaderTarget, stage: Stage): string => STAGES[target](stage);
