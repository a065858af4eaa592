import { flow, shows, type Operation } from './operation.ts';
import { parameter, smoothRise } from './shared.ts';

const value = flow('value', 'vector');
const base = { family: 'shaping', result: 'widest' } as const;
const bound = (name: string, help: string, more: object = {}): ReturnType<typeof parameter> =>
  parameter(name, 'vector', help, { range: [0, 1], ...more });
const clouds = 'uv |> fbm(cells: 4, evolve: 1 lap)';

export const shaping: readonly Operation[] = [
  {
    ...base,
    name: 'above',
    summary: '1 at and above an edge, 0 below it',
    uses: 'threshold, cut, mask',
    help: 'A hard threshold. For a soft one use rise.',
    parameters: [value, bound('edge', 'The threshold.', { default: 0.5 })],
    example: shows(`${clouds} |> above(0.5)`),
    lower: ({ b }, a) => b.truth(b.le(a.node('edge'), a.flow)),
  },
  {
    ...base,
    name: 'below',
    summary: '1 below an edge, 0 at and above it',
    uses: 'threshold, cut, mask',
    help: 'A hard threshold, the reverse of above.',
    parameters: [value, bound('edge', 'The threshold.', { default: 0.5 })],
    example: shows(`${clouds} |> below(0.5)`),
    lower: ({ b }, a) => b.truth(b.lt(a.flow, a.node('edge'))),
  },
  {
    ...base,
    name: 'rise',
    summary: 'A soft threshold: 0 below low, 1 above high, smooth between',
    uses: 'soft threshold, smoothstep, fade, soft mask',
    help: "GLSL's smoothstep, with the input first.",
    parameters: [
      value,
      bound('low', 'The value at which it starts to rise.', { default: 0.4 }),
      bound('high', 'The value at which it reaches 1.', { default: 0.6 }),
    ],
    example: shows(`${clouds} |> rise(0.4, 0.6)`),
    lower: (c, a) => smoothRise(c, a.node('low'), a.node('high'), a.flow),
  },
  {
    ...base,
    name: 'band',
    summary: '1 between two values, 0 outside, with soft edges',
    uses: 'outline, stripe at a value, rim of a mask',
    help: 'Each edge is as wide as soft, centred on its value.',
    parameters: [
      value,
      bound('low', 'Lower end.', { default: 0.4 }),
      bound('high', 'Upper end.', { default: 0.6 }),
      bound('soft', 'Width of the edges.', { default: 0.05 }),
    ],
    example: shows(`${clouds} |> band(0.45, 0.55)`),
    lower: (c, a) => {
      const { b } = c;
      const half = b.max(b.mul(a.node('soft'), 0.5), 1e-6);
      const up = smoothRise(c, b.sub(a.node('low'), half), b.add(a.node('low'), half), a.flow);
      const down = smoothRise(c, b.sub(a.node('high'), half), b.add(a.node('high'), half), a.flow);
      return b.mul(up, b.sub(1, down));
    },
  },
  {
    ...base,
    name: 'remap',
    summary: 'Maps the range a..b to c..d',
    uses: 'range, rescale, levels',
    help: 'A straight line through both ends, going on past them; follow with clamp to stop it.',
    parameters: [
      value,
      bound('a', 'Start of the input range.'),
      bound('b', 'End of the input range.'),
      bound('c', 'Start of the output range.'),
      bound('d', 'End of the output range.'),
    ],
    example: shows(`${clouds} |> remap(0.3, 0.7, 0, 1)`),
    lower: ({ b }, a) =>
      b.add(
        a.node('c'),
        b.mul(b.div(b.sub(a.flow, a.node('a')), b.sub(a.node('b'), a.node('a'))), b.sub(a.node('d'), a.node('c'))),
      ),
  },
  {
    ...base,
    name: 'power',
    summary: 'Raises to a power: above 1 darkens midtones, below 1 lightens them',
    uses: 'gamma, sharpen, falloff',
    help: 'Negative values give 0.',
    parameters: [value, bound('e', 'The exponent.', { default: 2, range: [0, 8] })],
    example: shows(`${clouds} |> power(3)`),
    lower: ({ b }, a) => b.pow(a.flow, a.node('e')),
  },
  {
    ...base,
    name: 'invert',
    summary: '1 minus the value',
    uses: 'negative, opposite',
    help: 'Inverts dark and light.',
    parameters: [value],
    example: shows(`${clouds} |> invert()`),
    lower: ({ b }, a) => b.sub(1, a.flow),
  },
  {
    ...base,
    name: 'contrast',
    summary: 'Increases or reduces contrast around a midpoint',
    uses: 'stronger, levels',
    help: '1 leaves it unchanged, 2 doubles every distance from the midpoint, 0 is flat.',
    parameters: [
      value,
      bound('amount', 'The contrast.', { default: 1.5, range: [0, 4] }),
      bound('middle', 'The midpoint, which does not change.', { default: 0.5 }),
    ],
    example: shows(`${clouds} |> contrast(3)`),
    lower: ({ b }, a) => b.add(b.mul(b.sub(a.flow, a.node('middle')), a.node('amount')), a.node('middle')),
  },
  {
    ...base,
    name: 'posterize',
    summary: 'Reduces to a number of flat levels',
    uses: 'steps, levels, toon, banding',
    help: 'Two levels are 0 and 1; each further one lies evenly between.',
    parameters: [value, bound('levels', 'Number of levels.', { default: 4, range: [2, 32] })],
    example: shows(`${clouds} |> posterize(4)`),
    lower: ({ b }, a) => {
      const levels = b.max(a.node('levels'), 2);
      return b.div(b.min(b.floor(b.mul(b.clamp(a.flow, 0, 1), levels)), b.sub(levels, 1)), b.sub(levels, 1));
    },
  },
  {
    ...base,
    name: 'signed',
    summary: 'Maps 0..1 to -1..1',
    uses: 'centre around zero',
    help: 'For noise that pushes in both directions.',
    parameters: [value],
    example: shows(`${clouds} |> signed() |> abs()`),
    lower: ({ b }, a) => b.sub(b.mul(a.flow, 2), 1),
  },
  {
    ...base,
    name: 'unsigned',
    summary: 'Maps -1..1 to 0..1',
    uses: 'back to 0 to 1',
    help: 'The reverse of signed.',
    parameters: [value],
    example: shows('sin(uv.x * 12) |> unsigned()'),
    lower: ({ b }, a) => b.add(b.mul(a.flow, 0.5), 0.5),
  },
];
