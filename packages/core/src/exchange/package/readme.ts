import { INPUT_NAMES } from '../../backends/shader/emit.ts';
import type { Surface } from '../../check/program.ts';
import { PIXEL_INPUTS } from '../../ir/node.ts';
import { SHIFTS, type Shift } from '../../measure/subject.ts';
import { provenVerdicts, type Verdict } from '../../prove/verdicts.ts';
import type { CodeOptions, Target } from './code.ts';
import { dialsOf } from './js-module.ts';
import { hoursToLostPrecision, MEANINGS } from './manifest.ts';
import type { PackageShader } from './shaders.ts';
import type { PackageTexture } from './textures.ts';

/** Text from a material within a line of Markdown. */
const inline = (text: string): string =>
  text
    .replace(/\s+/g, ' ')
    .replace(/[\\`*_{}[\]<>#|~!&]/g, (c) => (c === '<' ? '&lt;' : c === '&' ? '&amp;' : `\\${c}`));
const code = (text: string): string => `\`${text}\``;
const table = (heads: readonly string[], rows: readonly (readonly string[])[]): string[] =>
  [heads, heads.map(() => '---'), ...rows].map((row) => `| ${row.join(' | ')} |`);

const MODES: Readonly<Record<Surface['mode'], string>> = {
  opaque: 'It is opaque.',
  mask: 'It is masked: discard pixels whose opacity is below the cutoff.',
  blend: 'It is blended by its opacity.',
  add: 'It is additive: its colour times its opacity is added.',
};
const SUBJECTS: Readonly<Record<Shift, string>> = {
  loop: 'The loop',
  tile_u: 'Horizontally the square',
  tile_v: 'Vertically the square',
};
const words = (shift: Shift, verdict: Verdict): string => {
  const good = shift === 'loop' ? 'closes' : 'tiles';
  switch (verdict) {
    case 'always':
      return `${good} at every setting of the dials`;
    case 'present':
      return `${good} with the exported dial values`;
    default:
      return shift === 'loop' ? 'is not proven to close' : 'is not proven to tile';
  }
};

interface Wiring {
  readonly language: string;
  readonly lines: (name: string, first: PackageShader) => readonly string[];
}
const given = ({ shader }: PackageShader): string => shader.inputs.map((i) => INPUT_NAMES[i]).join(', ');
const called = (first: PackageShader, frame: string): string =>
  `${first.shader.names.material}(${[given(first), frame].filter(Boolean).join(', ')})`;
const shownOutput = ({ shader }: PackageShader): string =>
  shader.outputs.find((o) => o.name === 'color')?.name ?? shader.outputs[0]?.name ?? 'color';

/** How a frame of it is drawn, in each language. */
const WIRING: Readonly<Record<Target, Wiring>> = {
  glsl: {
    language: 'GLSL ES 3.00',
    lines: (file, first) => [
      `Put ${code(`${file}.glsl`)} before your own stage. Give it the frame as a uniform, field by field from ${code(`${file}.js`)} or ${code(`${file}.h`)}, or let the shader compute it from dials and seconds with ${code(first.shader.names.frame)}.`,
      '',
      '```glsl',
      `uniform ${first.shader.names.Frame} frame;`,
      '// in main():',
      `${first.shader.names.Outputs} result = ${called(first, 'frame')};`,
      `// result.${shownOutput(first)} is linear light`,
      '```',
    ],
  },
  hlsl: {
    language: 'HLSL, Shader Model 5',
    lines: (file, first) => [
      `Put ${code(`${file}.hlsl`)} before your own stage; textures are ${code('t0')}, ${code('t1')} ... with samplers ${code('s0')}, ${code('s1')} ... in the order of the manifest.`,
      '',
      '```hlsl',
      `${first.shader.names.Dials} dials;`,
      ...first.shader.dials.map((d) => `dials.${d.name} = my_${d.name};`),
      `${first.shader.names.Outputs} result = ${called(first, `${first.shader.names.frame}(dials, seconds)`)};`,
      '```',
    ],
  },
  wgsl: {
    language: 'WGSL',
    lines: (file, first) => [
      `Put ${code(`${file}.wgsl`)} before your own stage. Binding 0 of group 0 is free for the frame; images follow as texture and sampler, from 1 and 2 on.`,
      '',
      '```wgsl',
      `@group(0) @binding(0) var<uniform> frame: ${first.shader.names.Frame};`,
      `let result = ${called(first, 'frame')};`,
      '```',
    ],
  },
  c: {
    language: 'C99',
    lines: (file, { name: { identifier: id } }) => [
      `${code(`${file}.h`)} computes the frame in doubles, so it stays exact for hours. The struct has the layout of a std140 uniform block.`,
      '',
      '```c',
      `#include "${file}.h"`,
      `${id}_dials dials = ${id}_default_dials();`,
      `${id}_frame_values frame;`,
      `${id}_frame(&dials, seconds, &frame);`,
      '```',
    ],
  },
  js: {
    language: 'JavaScript',
    lines: (file, first) => {
      const [field] = first.shader.uniforms;
      const width = field?.type[1] ?? '1';
      return [
        `${code(`${file}.js`)} does the same as an ES module, with types in ${code(`${file}.d.ts`)}.`,
        '',
        '```js',
        `import { frame } from './${file}.js';`,
        'const values = frame({ /* dials that differ */ }, performance.now() / 1000);',
        ...(field
          ? [
              `gl.uniform${width}${field.type.startsWith('f') ? 'f' : field.type.startsWith('i') ? 'i' : 'ui'}v(gl.getUniformLocation(program, 'frame.${field.name}'), [values.${field.name}].flat());`,
            ]
          : []),
        '```',
      ];
    },
  },
};

const shown = (value: unknown): string =>
  Array.isArray(value) ? value.map((v) => shown(v)).join(', ') : String(Math.round(Number(value) * 1e6) / 1e6);

/** The note to whoever takes a package up, who may never have heard of Estela. */
export function readmeOf(
  { targets, variant, revision, normalY = 'up' }: CodeOptions,
  shaders: readonly [PackageShader, ...PackageShader[]],
  textures: readonly PackageTexture[],
  { preview }: { readonly preview: boolean },
): string {
  const [first] = shaders;
  const { program, returns, proof, shader, name } = first;
  const { loop, surface } = program;
  const { file } = name;
  const title = inline(program.title || 'Untitled');
  const verdicts = provenVerdicts(proof).whole.verdicts;
  const dials = Object.entries(dialsOf(first)) as [
    string,
    { unit: string; default: unknown; hex?: string; min?: number; max?: number; help: string },
  ][];
  const missing = textures.filter((t) => t.file === undefined);
  const section = (head: string, lines: readonly string[]): string[] =>
    lines.length === 0 ? [] : ['', `## ${head}`, '', ...lines];
  return [
    `# ${title}`,
    '',
    ...(preview ? [`![${title}, its loop](preview.png)`, ''] : []),
    `Shader code of a material: a function from a texture coordinate and the values of a frame to ${shader.outputs.map((o) => code(o.name)).join(', ')}. Exported from Estela${revision === undefined ? '' : `, revision ${String(revision)}`}${variant === undefined ? '' : `, as its variant "${inline(variant)}"`}. Open [index.html](index.html) to see it play; nothing needs to be installed.`,
    '',
    `It is ${surface.lit ? 'lit: its outputs are inputs of your lighting' : 'unlit: its colour is shown as it is'}. ${MODES[surface.mode]} It is ${surface.twoSided ? 'two-sided' : 'one-sided'}. Colours are linear. Texture coordinates start at the top left: v points down.`,
    ...(shader.outputs.some((o) => o.name === 'normal') ? [`Normals are in tangent space, -1..1, y ${normalY}.`] : []),
    ...section('Files', [
      ...table(
        ['file', 'is'],
        [
          ...targets.flatMap((t) =>
            t === 'c' || t === 'js'
              ? []
              : [
                  [code(`${file}.${t}`), `the material in ${WIRING[t].language}: include it in your shader`],
                  [code(`${file}.main.${t}`), 'a complete shader that draws it on a square: compile this first'],
                ],
          ),
          ...(targets.includes('c') ? [[code(`${file}.h`), 'the values of a frame, for C and C++']] : []),
          ...(targets.includes('js') ? [[code(`${file}.js`), 'the values of a frame, for JavaScript']] : []),
          [code(`${file}.json`), 'the manifest: everything the host sets, with types, units and offsets'],
          [code(`${file}.wake`), 'the source text, for Estela'],
          ...(textures.some((t) => t.file !== undefined) ? [[code('textures/'), 'the images it reads']] : []),
        ],
      ),
    ]),
    ...section(
      'Dials',
      dials.length === 0
        ? []
        : [
            ...table(
              ['dial', 'default', 'range', 'unit', 'what it does'],
              dials.map(([dial, d]) => [
                code(dial),
                d.hex ?? shown(d.default),
                d.min === undefined || d.max === undefined ? '' : `${shown(d.min)} to ${shown(d.max)}`,
                d.unit,
                inline(d.help),
              ]),
            ),
            '',
            '"laps a loop" is the number of repeats in one loop. Colours are four linear numbers.',
          ],
    ),
    ...section(
      'Variants',
      program.variants.length === 0
        ? []
        : [
            ...program.variants.map((v) => {
              const uses = shaders.find((s) => s.variants.includes(v.name)) ?? first;
              return `- **${inline(v.name)}**${uses === first ? '' : `, uses ${code(uses.name.file)}: it changes a switch`}`;
            }),
            '',
            `The dial values of each are in ${code(`${file}.json`)}${targets.includes('js') ? ` and ${code(`${file}.js`)}` : ''}.`,
          ],
    ),
    ...section(
      'Switches',
      first.values.switches.size === 0
        ? []
        : [
            ...[...first.values.switches].map(([n, on]) => `- ${code(n)} is ${on ? 'on' : 'off'}`),
            '',
            'Switches are compiled into the code.',
          ],
    ),
    ...section('Time', [
      `The loop is ${shown(loop.seconds)} seconds, ${String(loop.frames)} frames at ${shown(loop.fps)} a second.`,
      returns
        ? `Time can restart after ${shown(returns.seconds)} seconds without a jump${returns.dials.length === 0 ? '' : `, while ${returns.dials.map((d) => code(d.name)).join(', ')} ${returns.dials.length === 1 ? 'is' : 'are'} as exported`}; the frame functions do this themselves.`
        : `There is no period after which everything repeats: let time run on. With 32-bit time in a shader, motion gets coarse after about ${shown(hoursToLostPrecision(loop.fps))} hours; on the host, in doubles, it does not.`,
      '',
      ...SHIFTS.map((shift) => `- ${SUBJECTS[shift]} ${words(shift, verdicts[shift])}.`),
    ]),
    ...section(
      'Inputs',
      shader.inputs.map(
        (i) => `- ${code(INPUT_NAMES[i])} (${PIXEL_INPUTS[i].replace('f', 'float').replace(/1$/, '')}): ${MEANINGS[i]}`,
      ),
    ),
    ...section(
      'Textures',
      textures.length === 0
        ? []
        : [
            ...table(
              ['texture', 'size', 'read as', 'wrap', 'filter', 'bind as sRGB'],
              shader.samplers.map(({ name: sampler, slot }) => {
                const texture = textures.find((t) => t.source === slot.source);
                return [
                  texture?.file === undefined ? `${inline(slot.source)} (missing)` : code(texture.file),
                  texture?.file === undefined ? '' : `${String(texture.width)} x ${String(texture.height)}`,
                  code(sampler),
                  slot.wrap,
                  slot.filter,
                  slot.encoding === 'color' ? 'yes' : 'no',
                ];
              }),
            ),
            ...(missing.length === 0
              ? []
              : ['', `Missing at export and left out: ${missing.map((t) => inline(t.source)).join(', ')}.`]),
          ],
    ),
    ...targets.flatMap((t) => section(`In ${WIRING[t].language}`, WIRING[t].lines(file, first))),
    '',
  ].join('\n');
}
