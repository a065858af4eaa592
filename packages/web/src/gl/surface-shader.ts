import { type GlslMaterial, type PixelInput, type Surface } from '@estela/core';

/** How a material is shown: on the UV square seen from the front, or on a mesh. */
/** The UV square; a mesh; or the square as if a ball stood in it over a floor, so that what depends on the view can be told. */
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

const MESH_VERTEX = `${HEAD}
uniform mat4 stage_view;
layout(location = 0) in vec3 stage_position;
layout(location = 1) in vec2 stage_uv;
layout(location = 2) in vec3 stage_normal;
out vec2 v_uv;
out vec3 v_position;
out vec3 v_normal;
void main() {
  v_uv = stage_uv;
  v_position = stage_position;
  v_normal = stage_normal;
  gl_Position = stage_view * vec4(stage_position, 1.0);
}
`;

/** Squares of two greys under what can be seen through, linear light. */
const BACKDROP = `vec3 stage_backdrop(vec2 pixel) {
  vec2 field = floor(pixel / 8.0);
  return vec3(mod(field.x + field.y, 2.0) < 0.5 ? 0.016 : 0.028);
}
`;

/** Vertex and fragment shader that show a material's colour and opacity. */
export function surfaceShader(material: GlslMaterial, surface: Surface, kind: ViewKind): ShaderSources {
  const has = (name: string): boolean => material.outputs.some((o) => o.name === name);
  const inputs: Record<PixelInput, string> = {
    uv: 'stage_at',
    uv2: 'stage_at',
    screen: 'stage_screen',
    position: kind === 'mesh' ? 'v_position' : 'vec3(stage_at.x - 0.5, 0.5 - stage_at.y, 0.0)',
    world: kind === 'mesh' ? 'v_position' : 'vec3(stage_at.x - 0.5, 0.5 - stage_at.y, 0.0)',
    vertex_color: 'vec4(1.0)',
    facing: {
      mesh: 'abs(dot(normalize(v_normal), normalize(stage_eye - v_position)))',
      flat: '1.0',
      ball: 'sqrt(max(0.0, 1.0 - 4.0 * dot(stage_at - 0.5, stage_at - 0.5)))',
    }[kind],
    // Nothing else stands on the Stage yet.
    gap: kind === 'ball' ? '(1.0 - stage_at.y)' : '1.0e6',
  };
  const types: Record<string, string> = { f1: 'float', f3: 'vec3', f4: 'vec4' };
  const body = [
    ...material.outputs.map((o) => `  ${types[o.type] ?? 'vec4'} result_${o.name};`),
    `  material(${[...material.inputs.map((i) => inputs[i]), ...material.outputs.map((o) => `result_${o.name}`)].join(', ')});`,
    `  vec4 color = ${has('color') ? 'result_color' : 'vec4(vec3(0.18), 1.0)'};`,
    `  float alpha = clamp(${has('opacity') ? 'result_opacity' : 'color.a'}, 0.0, 1.0);`,
  ];
  const cutoff = has('cutoff') ? 'result_cutoff' : '0.5';
  const place = ['  vec2 pixel = vec2(gl_FragCoord.x, stage_size.y - gl_FragCoord.y);', '  vec2 stage_at = v_uv;', '  vec2 stage_screen = pixel / stage_size;'];
  const shown =
    kind !== 'mesh'
      ? {
          opaque: '  vec3 seen = color.rgb;',
          mask: `  vec3 seen = alpha < ${cutoff} ? stage_backdrop(pixel) : color.rgb;`,
          blend: '  vec3 seen = mix(stage_backdrop(pixel), color.rgb, alpha);',
          add: '  vec3 seen = stage_backdrop(pixel) + color.rgb * alpha;',
        }[surface.mode] + '\n  fragment = vec4(stage_encode(seen), 1.0);'
      : {
          opaque: '  fragment = vec4(color.rgb, 1.0);',
          mask: `  if (alpha < ${cutoff}) discard;\n  fragment = vec4(color.rgb, 1.0);`,
          blend: '  fragment = vec4(color.rgb * alpha, alpha);',
          add: '  fragment = vec4(color.rgb * alpha, 0.0);',
        }[surface.mode];
  const fragment = [
    HEAD,
    kind !== 'mesh' ? 'in vec2 v_uv;' : 'in vec2 v_uv;\nin vec3 v_position;\nin vec3 v_normal;\nuniform vec3 stage_eye;',
    'uniform vec2 stage_size;',
    'out vec4 fragment;',
    material.code,
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

/** Shows a linear picture, drawn beside, in sRGB. */
export const COPY: ShaderSources = {
  vertex: WHOLE_VERTEX,
  fragment: `${HEAD}
uniform sampler2D stage_picture;
out vec4 fragment;
${ENCODE}
void main() { fragment = vec4(stage_encode(texelFetch(stage_picture, ivec2(gl_FragCoord.xy), 0).rgb), 1.0); }
`,
};
