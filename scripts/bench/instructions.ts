import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { compile, emitShader, GLSL, HLSL, type Graph } from '@estela/core';

const folder = mkdtempSync(join(tmpdir(), 'estela-count-'));

type Language = 'GLSL' | 'HLSL';

/** Instructions of a fragment shader's functions after glslang and spirv-opt -O. */
function count(name: string, language: Language, source: string): number {
  const path = (end: string): string => join(folder, `${name}.${language}.${end}`);
  writeFileSync(path('frag'), source.replace('#version 300 es', '#version 310 es'));
  const how = language === 'GLSL' ? ['-G'] : ['-D', '-V', '-S', 'frag', '-e', 'main'];
  execFileSync('glslangValidator', [...how, '--aml', '--amb', '-o', path('spv'), path('frag')]);
  execFileSync('spirv-opt', ['-O', path('spv'), '-o', path('opt.spv')]);
  execFileSync('spirv-dis', ['--no-color', path('opt.spv'), '-o', path('txt')]);
  const lines = readFileSync(path('txt'), 'utf8').split('\n');
  const body = lines.slice(lines.findIndex((l) => l.includes('OpFunction ')));
  return body.filter((l) => /\bOp/.test(l) && !/OpLabel|OpFunction|OpReturn/.test(l)).length;
}

const HEAD = '#version 300 es\nprecision highp float;\nprecision highp int;\n';
const STAGE = '\nlayout(location = 0) in vec2 v_uv;\nlayout(location = 0) out vec4 fragment;\n';
const TAIL = `${STAGE}void main() { material(v_uv, fragment); }\n`;
const TYPES: Readonly<Record<string, string>> = { f1: 'float', f2: 'vec2', f3: 'vec3', f4: 'vec4' };

const hlslType = (type: string): string => TYPES[type]!.replace('vec', 'float');

/** The same in HLSL: its fields in a block. */
function emittedHlsl(graph: Graph): string {
  const { code, uniforms } = emitShader(HLSL, graph, graph.outputs);
  return [
    code,
    'cbuffer host : register(b0) {',
    ...uniforms.map((u) => `  ${hlslType(u.type)} host_${u.name};`),
    '};',
    'float4 main(float2 v_uv : TEXCOORD0) : SV_Target {',
    '  material_Frame frame;',
    ...uniforms.map((u) => `  frame.${u.name} = host_${u.name};`),
    '  return material(v_uv, frame).color;',
    '}',
    '',
  ].join('\n');
}

/** What was written by hand, in the words of HLSL. */
function handHlsl(hand: string): string {
  const lines = hand.split('\n');
  const uniforms = lines.filter((l) => l.startsWith('uniform ') && !l.includes('sampler2D'));
  const images = lines.flatMap((l) => /^uniform sampler2D (\w+);/.exec(l)?.[1] ?? []);
  const rest = lines.filter((l) => !l.startsWith('uniform '));
  const text = [
    'cbuffer host : register(b0) {',
    ...uniforms.map((l) => l.replace('uniform ', '  ')),
    '};',
    ...images.map(
      (n, i) => `Texture2D ${n} : register(t${String(i)});\nSamplerState ${n}_sampler : register(s${String(i)});`,
    ),
    ...rest,
    'float4 main(float2 v_uv : TEXCOORD0) : SV_Target { float4 fragment; material(v_uv, fragment); return fragment; }',
    '',
  ].join('\n');
  return text
    .replace(/\btexture\((\w+), /g, '$1.Sample($1_sampler, ')
    .replace(/\bvec([234])\b/g, 'float$1')
    .replace(/\bmix\(/g, 'lerp(')
    .replace(/\bfract\(/g, 'frac(')
    .replace(/\bfloatBitsToUint\(/g, 'asuint(')
    .replace(/\bline\(/g, 'row(');
}

/** The material with a uniform for each field of its frame, as the one by hand has. */
function emitted(graph: Graph): string {
  const { code, uniforms } = emitShader(GLSL, graph, graph.outputs);
  return [
    HEAD + code + STAGE,
    ...uniforms.map((u) => `uniform ${TYPES[u.type]!} host_${u.name};`),
    'void main() {',
    '  material_Frame frame;',
    ...uniforms.map((u) => `  frame.${u.name} = host_${u.name};`),
    '  fragment = material(v_uv, frame).color;',
    '}',
    '',
  ].join('\n');
}

/** The same effects, in Wake and as someone would write them by hand. */
const PAIRS: readonly { readonly name: string; readonly wake: string; readonly hand: string }[] = [
  {
    name: 'panned texture, tinted',
    wake: 'loop 4s at 30fps\ndial fall: laps = 2\ndial tint: color = #9fd8e6\nimage vapour = "a"\nfilm = uv |> tile(2, 3) |> pan(fall, heading: 270deg) |> sample(vapour)\nout color = film.rgb * tint.rgb\n',
    hand: `uniform vec2 offset;
uniform vec3 tint;
uniform sampler2D vapour;
void material(vec2 uv, out vec4 color) {
  color = vec4(texture(vapour, uv * vec2(2.0, 3.0) - offset).rgb * tint, 1.0);
}`,
  },
  {
    name: 'warped texture with glints',
    wake: 'loop 4s at 30fps\ndial fall: laps = 2\nimage vapour = "a"\nramp glint = 0% #000000, 60% #000000, 100% #ffffff smooth\nflow = uv |> pan(fall, heading: 270deg)\npuffs = flow |> fbm(cells: 4, octaves: 3)\nfilm = flow |> distort(puffs, amount: 0.05) |> sample(vapour)\nout color = film.rgb + (puffs |> ramp(glint)).rgb\n',
    hand: `uniform vec2 offset;
uniform sampler2D vapour;
uint line(float index, uint factor) { uint h = floatBitsToUint(index + 12582912.0) * factor; return h ^ (h >> 15u); }
float slope(uint h, float x, float y) {
  h *= 0x846ca68bu;
  h ^= h >> 15u;
  return float(int(h)) * x + float(int(h << 16u)) * y;
}
float noise(vec2 place, float cells, uint seed) {
  vec2 p = min(fract(place), 0.99999994) * cells;
  vec2 low = floor(p);
  vec2 f = p - low;
  vec2 high = low + 1.0;
  if (high.x >= cells) high.x = 0.0;
  if (high.y >= cells) high.y = 0.0;
  uint x0 = line(low.x, 0x9e3779b1u) ^ seed;
  uint x1 = line(high.x, 0x9e3779b1u) ^ seed;
  uint y0 = line(low.y, 0x85ebca77u);
  uint y1 = line(high.y, 0x85ebca77u);
  vec2 g = f - 1.0;
  vec2 s = f * f * f * (f * (f * 6.0 - 15.0) + 10.0);
  return mix(mix(slope(x0 ^ y0, f.x, f.y), slope(x0 ^ y1, f.x, g.y), s.y), mix(slope(x1 ^ y0, g.x, f.y), slope(x1 ^ y1, g.x, g.y), s.y), s.x) * 8.149073e-10;
}
void material(vec2 uv, out vec4 color) {
  vec2 flow = uv - offset;
  float n = noise(flow, 4.0, 746266780u) + noise(flow, 8.0, 2785853378u) * 0.5 + noise(flow, 16.0, 4040787169u) * 0.25;
  float puffs = clamp(n / 1.1456439 * 0.5 + 0.5, 0.0, 1.0);
  vec3 film = texture(vapour, flow + (puffs - 0.5) * 0.05).rgb;
  float t = clamp((puffs - 0.6) / 0.4, 0.0, 1.0);
  color = vec4(film + vec3(1.0, 1.0, 1.0) * (t * t * (3.0 - 2.0 * t)), 1.0);
}`,
  },
  {
    name: 'dissolve with a burning edge',
    wake: 'loop 4s at 30fps\ndial done = 0.5 in 0..1\nimage face = "a"\nimage mask = "b" data\nramp fire = 0% #000000, 50% #ff8800, 100% #ffffff\nbase = uv |> sample(face)\nout color = base |> dissolve((uv |> sample(mask)).r, done, 0.2, fire, 0.5)\n',
    hand: `uniform float done;
uniform sampler2D face;
uniform sampler2D maskImage;
void material(vec2 uv, out vec4 color) {
  vec4 base = texture(face, uv);
  float m = clamp(texture(maskImage, uv).r, 0.0, 1.0);
  float age = clamp((done - m) / 0.2 + done, 0.0, 1.0);
  vec4 front = mix(vec4(0.0, 0.0, 0.0, 1.0), vec4(1.0, 0.24620133, 0.0, 1.0), clamp(age / 0.5, 0.0, 1.0));
  front = mix(front, vec4(1.0, 1.0, 1.0, 1.0), clamp((age - 0.5) / 0.5, 0.0, 1.0));
  float share = clamp((age - 0.5) / 0.5, 0.0, 1.0);
  float ofFront = front.a * (1.0 - share);
  float ofBase = base.a * share;
  float alpha = ofFront + ofBase;
  vec4 burning = vec4(mix(front.rgb, base.rgb, alpha == 0.0 ? 0.0 : ofBase / alpha), alpha);
  color = age <= 0.0 ? vec4(0.0, 0.0, 0.0, 0.0) : (age >= 1.0 ? base : burning);
}`,
  },
];

/** For each effect and language: instructions of the emitted shader, and of the one written by hand. */
export function instructionRatios(): { name: string; language: Language; emitted: number; hand: number }[] {
  return PAIRS.flatMap(({ name, wake, hand }, i) => {
    const { graph } = compile(wake);
    const texts: Readonly<Record<Language, readonly [emitted: string, hand: string]>> = {
      GLSL: [emitted(graph), HEAD + hand + TAIL],
      HLSL: [emittedHlsl(graph), handHlsl(hand)],
    };
    return (['GLSL', 'HLSL'] as const).map((language) => ({
      name,
      language,
      emitted: count(`emitted${String(i)}`, language, texts[language][0]),
      hand: count(`hand${String(i)}`, language, texts[language][1]),
    }));
  });
}
