import type { Node } from '../ir/node.ts';
import { flow, shows, type LowerContext, type Operation } from './operation.ts';
import { directionOf, centerParameter, centred, parameter, smoothRise } from './shared.ts';

const at = flow('at', 'vec2');
const soft = parameter('soft', 'number', 'Width of the soft edge, in UV units.', { default: 0.01, range: [0, 0.5] });
const base = { family: 'patterns', result: 'number' } as const;

/** 1 where `distance` is below 0, 0 from `soft` on; half-way at the edge itself. */
const inside = (c: LowerContext, distance: Node, edge: Node): Node => {
  const half = c.b.max(c.b.mul(edge, 0.5), 1e-6);
  return c.b.sub(1, smoothRise(c, c.b.neg(half), half, distance));
};

export const patterns: readonly Operation[] = [
  {
    ...base,
    name: 'linear_gradient',
    summary: 'Rises from 0 to 1 along a heading',
    uses: 'fade toward one side, thin out, top to bottom',
    help: 'Across the unit square, through its centre: 0 at one edge and 1 at the opposite edge for the four axis headings. Clamped outside the square.',
    parameters: [at, parameter('heading', 'angle', 'The direction in which it rises.', { default: 0, range: [0, 1] })],
    example: shows('uv |> linear_gradient(90deg)'),
    lower: (c, a) => c.b.clamp(c.b.add(c.b.dot(c.b.sub(a.flow, 0.5), directionOf(c, a.node('heading'))), 0.5), 0, 1),
  },
  {
    ...centred,
    ...base,
    name: 'radial_gradient',
    summary: 'Falls from 1 at a centre to 0 at a radius',
    uses: 'glow, spot, vignette, falloff from the middle',
    help: 'Straight from 1 to 0; follow it with rise for a softer fall.',
    parameters: [
      at,
      centerParameter,
      parameter('radius', 'number', 'The radius at which it reaches 0.', { default: 0.5, range: [0, 1] }),
    ],
    example: shows('uv |> radial_gradient()'),
    lower: ({ b }, a) => b.clamp(b.sub(1, b.div(b.length(b.sub(a.flow, a.node('center'))), a.node('radius'))), 0, 1),
  },
  {
    ...centred,
    ...base,
    name: 'disc',
    summary: 'A filled circle',
    uses: 'circle, dot, lamp',
    help: '1 inside, 0 outside, with a soft edge.',
    parameters: [
      at,
      parameter('radius', 'number', 'Radius in UV units.', { default: 0.4, range: [0, 1] }),
      centerParameter,
      soft,
    ],
    example: shows('uv |> disc(swing(0.1, 0.4, 1 lap))'),
    lower: (c, a) =>
      inside(c, c.b.sub(c.b.length(c.b.sub(a.flow, a.node('center'))), a.node('radius')), a.node('soft')),
  },
  {
    ...centred,
    ...base,
    name: 'ring',
    summary: 'A circle outline',
    uses: 'circle outline, halo',
    help: '1 on the line, 0 off it, with a soft edge.',
    parameters: [
      at,
      parameter('radius', 'number', 'Radius to the centre of the line.', { default: 0.4, range: [0, 1] }),
      parameter('width', 'number', 'Width of the line.', { default: 0.05, range: [0, 0.5] }),
      centerParameter,
      soft,
    ],
    example: shows('uv |> ring(swing(0.1, 0.4, 1 lap))'),
    lower: (c, a) => {
      const { b } = c;
      const away = b.abs(b.sub(b.length(b.sub(a.flow, a.node('center'))), a.node('radius')));
      return inside(c, b.sub(away, b.mul(a.node('width'), 0.5)), a.node('soft'));
    },
  },
  {
    ...centred,
    ...base,
    name: 'box',
    summary: 'A filled rectangle',
    uses: 'rectangle, frame',
    help: '1 inside, 0 outside, with a soft edge.',
    parameters: [
      at,
      parameter('size', ['number', 'vec2'], 'Width and height.', { default: 0.5, range: [0, 1] }),
      centerParameter,
      soft,
    ],
    example: shows('uv |> spin(1 lap) |> box((0.6, 0.3))'),
    lower: (c, a) => {
      const { b } = c;
      const d = b.sub(b.abs(b.sub(a.flow, a.node('center'))), b.mul(a.node('size'), 0.5));
      return inside(c, b.max(b.x(d), b.y(d)), a.node('soft'));
    },
  },
  {
    ...base,
    name: 'stripes',
    summary: 'Bands along v',
    uses: 'bars, lines, scanlines',
    help: 'As many bands as counted per UV unit, across u; turn the coordinate for other directions. 1 on a band, 0 between, with a soft edge.',
    parameters: [
      at,
      parameter('count', 'number', 'Bands per UV unit.', { default: 4, range: [1, 32] }),
      parameter('width', 'number', 'Fraction of a period that is 1.', { default: 0.5, range: [0, 1] }),
      parameter('soft', 'number', 'Width of the soft edge, as a fraction of a period.', {
        default: 0.05,
        range: [0, 1],
      }),
    ],
    example: shows('uv |> pan(0.25 laps, heading: 0deg) |> stripes(4)'),
    lower: (c, a) => {
      const { b } = c;
      const away = b.abs(b.sub(b.fract(b.mul(b.x(a.flow), a.node('count'))), 0.5));
      return inside(c, b.sub(away, b.mul(a.node('width'), 0.5)), a.node('soft'));
    },
  },
  {
    ...base,
    name: 'checker',
    summary: 'A checkerboard',
    uses: 'squares, chess board, test',
    help: 'So many fields along each axis of the unit square; even counts tile. 1 and 0 in turn, 0 at the top left.',
    parameters: [at, parameter('count', ['number', 'vec2'], 'Squares per UV unit.', { default: 8, range: [1, 32] })],
    example: shows('uv |> spin(1 lap) |> checker(6)'),
    lower: ({ b }, a) => {
      const field = b.floor(b.mul(a.flow, a.node('count')));
      return b.mod(b.add(b.x(field), b.y(field)), 2);
    },
  },
  {
    ...base,
    name: 'inside',
    summary: '1 within the unit square, 0 outside it',
    uses: 'crop, single copy, no repeat',
    help: 'Masks what was moved or scaled out of the square.',
    parameters: [at],
    example: shows('uv |> scale(swing(0.2, 1, 1 lap)) |> inside()'),
    lower: ({ b }, a) => {
      const within = b.and(b.le(0, a.flow), b.le(a.flow, 1));
      return b.truth(b.and(b.x(within), b.y(within)));
    },
  },
];
