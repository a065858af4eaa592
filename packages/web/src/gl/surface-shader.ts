import { type ShaderMaterial, type PixelInput, type Surface } from '@estela/core';
import { ENVIRONMENT_GLSL, SHADING_GLSL, TONE_GLSL } from './lighting.ts';

/**
 * The UV square; a mesh; or the square as if a ball stood in it over a floor, so that what depends on the view can be
 * told.
 */
export type ViewKind = 'flat' | 'mesh' | 'ball';

export interface ShaderSources {
  readonly vertex: string;
  readonly fragment: string;
}

const HEAD = '#version 300 es\nprecision highp float;\nprecision highp int;\nprecision highp sampler2D;\n';

/** sRGB transfer function (IEC 61966-2-1); `stage_` keeps these names apart from the material's. */
export const ENCODE = `vec3 stage_encode(vec3 c) {
  c = clamp(c, 0.0, 1.0);
  return mix(1.055 * pow(c, vec3(1.0 / 2.4)) - 0.055, c * 12.92, lessThanEqual(c, vec3(0.0031308)));
}
`;

/** One square a tile, so that each has coordinates, and their slopes, of its own. */
const FLAT_VERTEX = `${HEAD}
uniform vec4 stage_square;
uniform vec2 stage_size;
out vec2 v_uv;
void main() {
  v_uv = vec2(gl_VertexID & 1, gl_VertexID >> 1);
  int across = int(stage_square.w);
  vec2 tile = vec2(gl_InstanceID % across, gl_InstanceID / across);
  vec2 place = (stage_square.xy + (tile + v_uv) * stage_square.z) / stage_size;
  gl_Position = vec4(place.x * 2.0 - 1.0, 1.0 - place.y * 2.0, 0.0, 1.0);
}
`;

/** All of the canvas. */
const WHOLE_VERTEX = `${HEAD}
void main() {
  gl_Position = vec4(vec2(gl_VertexID == 1 ? 3.0 : -1.0, gl_VertexID == 2 ? 3.0 : -1.0), 0.0, 1.0);
}
`;

/** `stage_model` turns, moves and scales all sides alike, so that it serves normals too. */
const MESH_VERTEX = `${HEAD}
uniform mat4 stage_view;
uniform mat4 stage_model;
layout(location = 0) in vec3 stage_position;
layout(location = 1) in vec2 stage_uv;
layout(location = 2) in vec3 stage_normal;
layout(location = 3) in vec4 stage_tangent;
layout(location = 4) in vec4 stage_color;
out vec2 v_uv;
out vec3 v_place;
out vec3 v_position;
out vec3 v_normal;
out vec4 v_tangent;
out vec4 v_color;
void main() {
  v_uv = stage_uv;
  v_place = stage_position;
  v_position = (stage_model * vec4(stage_position, 1.0)).xyz;
  v_normal = mat3(stage_model) * stage_normal;
  v_tangent = vec4(mat3(stage_model) * stage_tangent.xyz, stage_tangent.w);
  v_color = stage_color;
  gl_Position = stage_view * vec4(v_position, 1.0);
}
`;

/** Squares of two greys under what can be seen through, linear light. */
const BACKDROP = `vec3 stage_backdrop(vec2 pixel) {
  vec2 field = floor(pixel / 8.0);
  return vec3(mod(field.x + field.y, 2.0) < 0.5 ? 0.016 : 0.028);
}
`;

/**
 * What lies behind the surface: its picture, with smaller ones for rough surfaces, and its depth; the planes that depth
 * is counted between.
 */
const BEHIND = `uniform sampler2D stage_behind;
uniform sampler2D stage_behind_depth;
uniform vec2 stage_planes;
float stage_distance(float depth) {
  return stage_planes.x * stage_planes.y / (stage_planes.y - depth * (stage_planes.y - stage_planes.x));
}
/** Metres from this place to what is behind it, along the view. */
float stage_gap() {
  float own = stage_distance(gl_FragCoord.z);
  float behind = texelFetch(stage_behind_depth, ivec2(gl_FragCoord.xy), 0).r;
  return behind >= 1.0 ? 1.0e6 : max(stage_distance(behind) - own, 0.0) * length(stage_eye - v_position) / own;
}
`;

/** How far behind a refracting surface its backdrop is taken to be, in metres. */
const THICKNESS = 0.3;
/** Sizes that the picture behind is blurred over, from no roughness to all. */
const BLUR_LEVELS = 5;

/** Whether a surface shows or measures what stands behind it. */
export const looksBehind = ({ outputs, inputs }: ShaderMaterial): boolean =>
  inputs.includes('depth_behind') || outputs.some((o) => o.name === 'refraction');

/** A mesh's colour as light, from what the material puts out. */
function meshLight(has: (name: string) => boolean, lit: boolean): string {
  const or = (name: string, otherwise: string): string => (has(name) ? `result.${name}` : otherwise);
  if (!lit)
    return '  vec3 light = color.rgb;\n  float rough = 0.0;\n  vec3 n = gl_FrontFacing ? normalize(v_normal) : -normalize(v_normal);\n  vec3 v = normalize(stage_eye - v_position);';
  return `  float rough = clamp(${or('roughness', '0.6')}, 0.0, 1.0);
  vec3 n = normalize(v_normal);
  ${has('normal') ? 'vec3 t = normalize(v_tangent.xyz); n = normalize(mat3(t, cross(n, t) * v_tangent.w, n) * result.normal);' : ''}
  if (!gl_FrontFacing) n = -n;
  vec3 v = normalize(stage_eye - v_position);
  vec3 light = stage_shade(max(color.rgb, vec3(0.0)), clamp(${or('metallic', '0.0')}, 0.0, 1.0), rough, n, v)${has('emissive') ? ' + result.emissive.rgb' : ''};`;
}

/**
 * Vertex and fragment shader that show a material: its colour on the square; lit, where it is to be, and before what
 * stands behind it on a mesh.
 */
export function surfaceShader(material: ShaderMaterial, surface: Surface, kind: ViewKind): ShaderSources {
  const has = (name: string): boolean => material.outputs.some((o) => o.name === name);
  const inputs: Record<PixelInput, string> = {
    uv: 'stage_at',
    uv2: 'stage_at',
    screen: 'stage_screen',
    position: kind === 'mesh' ? 'v_place' : 'vec3(stage_at.x - 0.5, 0.5 - stage_at.y, 0.0)',
    world: kind === 'mesh' ? 'v_position' : 'vec3(stage_at.x - 0.5, 0.5 - stage_at.y, 0.0)',
    vertex_color: kind === 'mesh' ? 'v_color' : 'vec4(1.0)',
    facing: {
      mesh: 'abs(dot(normalize(v_normal), normalize(stage_eye - v_position)))',
      flat: '1.0',
      ball: 'sqrt(max(0.0, 1.0 - 4.0 * dot(stage_at - 0.5, stage_at - 0.5)))',
    }[kind],
    depth_behind: { mesh: 'stage_gap()', flat: '1.0e6', ball: '(1.0 - stage_at.y)' }[kind],
  };
  const { names } = material;
  const body = [
    `  ${names.Outputs} result = ${names.material}(${[...material.inputs.map((i) => inputs[i]), 'stage_frame'].join(', ')});`,
    `  vec4 color = ${has('color') ? 'result.color' : 'vec4(vec3(0.18), 1.0)'};`,
    `  float alpha = clamp(${has('opacity') ? 'result.opacity' : 'color.a'}, 0.0, 1.0);`,
  ];
  const cutoff = has('cutoff') ? 'result.cutoff' : '0.5';
  const place = [
    '  vec2 pixel = vec2(gl_FragCoord.x, stage_size.y - gl_FragCoord.y);',
    '  vec2 stage_at = v_uv;',
    '  vec2 stage_screen = pixel / stage_size;',
  ];
  const shown =
    kind !== 'mesh'
      ? {
          opaque: '  vec3 seen = color.rgb;',
          mask: `  vec3 seen = alpha < ${cutoff} ? stage_backdrop(pixel) : color.rgb;`,
          blend: '  vec3 seen = mix(stage_backdrop(pixel), color.rgb, alpha);',
          add: '  vec3 seen = stage_backdrop(pixel) + color.rgb * alpha;',
        }[surface.mode] + '\n  fragment = vec4(stage_encode(seen), 1.0);'
      : `${meshLight(has, surface.lit)}\n${
          {
            opaque: '  fragment = vec4(light, 1.0);',
            mask: `  if (alpha < ${cutoff}) discard;\n  fragment = vec4(light, 1.0);`,
            blend: has('refraction') ? REFRACTED : '  fragment = vec4(light * alpha, alpha);',
            add: '  fragment = vec4(light * alpha, 0.0);',
          }[surface.mode]
        }`;
  const fragment = [
    HEAD,
    kind !== 'mesh'
      ? 'in vec2 v_uv;'
      : 'in vec2 v_uv;\nin vec3 v_place;\nin vec3 v_position;\nin vec3 v_normal;\nin vec4 v_tangent;\nin vec4 v_color;\nuniform vec3 stage_eye;\nuniform mat4 stage_view;',
    'uniform vec2 stage_size;',
    kind === 'mesh' && looksBehind(material) ? BEHIND : '',
    kind === 'mesh' && surface.lit ? ENVIRONMENT_GLSL + SHADING_GLSL : '',
    'out vec4 fragment;',
    material.code,
    `uniform ${names.Frame} stage_frame;`,
    kind !== 'mesh' ? ENCODE + BACKDROP : '',
    'void main() {',
    ...place,
    ...body,
    shown,
    '}',
    '',
  ].join('\n');
  return { vertex: kind !== 'mesh' ? FLAT_VERTEX : MESH_VERTEX, fragment };
}

/**
 * Light through a surface from what is behind it: bent by its index, blurred by its roughness; the surface itself lies
 * over it by its opacity.
 * Where the bent way ends at what stands in front of the surface, it is taken straight.
 */
const REFRACTED = `  vec3 bent = refract(-v, n, 1.0 / max(result.refraction, 1.0));
  vec4 through = stage_view * vec4(v_position + bent * ${THICKNESS.toFixed(2)}, 1.0);
  vec2 seen_at = through.xy / through.w * 0.5 + 0.5;
  if (stage_distance(textureLod(stage_behind_depth, seen_at, 0.0).r) < stage_distance(gl_FragCoord.z)) seen_at = gl_FragCoord.xy / stage_size;
  vec4 behind = textureLod(stage_behind, seen_at, rough * ${BLUR_LEVELS.toFixed(1)});
  fragment = mix(behind, vec4(light, 1.0), alpha);`;

/**
 * Shows a linear picture, drawn beside, in sRGB: lit ones by their exposure and through the tone mapper; where nothing
 * covers it, the same grey always.
 */
export const COPY: ShaderSources = {
  vertex: WHOLE_VERTEX,
  fragment: `${HEAD}
uniform sampler2D stage_picture;
uniform float stage_exposure;
uniform vec3 stage_bare;
out vec4 fragment;
${ENCODE}${TONE_GLSL}
void main() {
  vec4 picture = texelFetch(stage_picture, ivec2(gl_FragCoord.xy), 0);
  vec3 light = stage_exposure > 0.0 ? stage_tone(picture.rgb * stage_exposure) : picture.rgb;
  fragment = vec4(stage_encode(light + stage_bare * (1.0 - picture.a)), 1.0);
}
`,
};

/** Floor and wall behind a surface, with lines a tenth of a metre apart, lit by the environment. */
export const BACKDROP_MESH: ShaderSources = {
  vertex: `${HEAD}
uniform mat4 stage_view;
layout(location = 0) in vec3 stage_position;
layout(location = 2) in vec3 stage_normal;
out vec3 v_position;
out vec3 v_normal;
void main() {
  v_position = stage_position;
  v_normal = stage_normal;
  gl_Position = stage_view * vec4(stage_position, 1.0);
}
`,
  fragment: `${HEAD}
in vec3 v_position;
in vec3 v_normal;
uniform vec3 stage_eye;
out vec4 fragment;
${ENVIRONMENT_GLSL}${SHADING_GLSL}
void main() {
  vec2 at = abs(v_normal.y) > 0.5 ? v_position.xz : v_position.xy;
  vec2 lines = abs(fract(at * 10.0 + 0.5) - 0.5) / max(fwidth(at * 10.0), vec2(1e-4));
  float line = 1.0 - clamp(min(lines.x, lines.y) - 0.5, 0.0, 1.0);
  vec2 fields = floor(at * 2.5);
  vec3 base = mix(vec3(mod(fields.x + fields.y, 2.0) < 0.5 ? 0.16 : 0.24), vec3(0.55), line * 0.7);
  fragment = vec4(stage_shade(base, 0.0, 0.8, normalize(v_normal), normalize(stage_eye - v_position)), 1.0);
}
`,
};
