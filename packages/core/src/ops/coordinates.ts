import { flow, shows, type Operation } from './operation.ts';
import {
  centerParameter,
  centred,
  onPivot,
  parameter,
  pivotParameter,
  smoothRise,
  rotateAbout,
  TAU,
} from './shared.ts';

const base = { family: 'coordinates', result: 'vec2', keepsCoordinates: true } as const;
const at = flow('at', 'vec2');
const amountParameter = (help: string, top: number): ReturnType<typeof parameter> =>
  parameter('amount', 'number', help, { range: [-top, top] });

export const coordinates: readonly Operation[] = [
  {
    ...base,
    name: 'tile',
    stretches: [
      { parameter: 'n', fits: 'whole' },
      { parameter: 'm', fits: 'whole' },
    ],
    handles: [{ kind: 'tiles', across: 'n', down: 'm' }],
    summary: 'Repeats the picture n times across and m times down',
    uses: 'repeat, more copies, smaller pattern',
    help: 'Whole counts keep a tiling picture tiling. Without the second count, both axes repeat equally.',
    parameters: [
      at,
      parameter('n', 'number', 'Repeats across.', { range: [1, 16] }),
      parameter('m', 'number', 'Repeats down; as many as across where left out.', { range: [1, 16], optional: true }),
    ],
    example: shows('uv |> tile(3, 2) |> checker(2)'),
    lower: ({ b }, a) => b.mul(a.flow, b.vec(a.node('n'), a.has('m') ? a.node('m') : a.node('n'))),
  },
  {
    ...base,
    name: 'offset',
    handles: [{ kind: 'offset', right: 'right', up: 'up' }],
    summary: 'Moves the picture right and up',
    uses: 'move, shift, place',
    help: 'In UV units: offset(0.5, 0) moves it half a picture to the right.',
    parameters: [
      at,
      parameter('right', 'number', 'To the right; negative to the left.', { range: [-1, 1] }),
      parameter('up', 'number', 'Upwards; negative downwards.', { default: 0, range: [-1, 1] }),
    ],
    example: shows('uv |> offset(swing(-0.2, 0.2, 1 lap), 0.1) |> checker(4)'),
    lower: ({ b }, a) => b.sub(a.flow, b.vec(a.node('right'), b.neg(a.node('up')))),
  },
  {
    ...base,
    name: 'turn',
    stretches: [{ parameter: 'angle', fits: 'quarters' }],
    handles: [{ kind: 'turning', angle: 'angle', about: 'pivot', moves: false }, onPivot],
    summary: 'Rotates the picture counter-clockwise about a pivot',
    uses: 'rotate, angle, tilt',
    help: 'A fixed rotation. For continuous rotation, use spin.',
    parameters: [
      at,
      parameter('angle', 'angle', 'Counter-clockwise, as seen.', { range: [-0.5, 0.5], sample: '45deg' }),
      pivotParameter,
    ],
    example: shows('uv |> turn(30deg) |> checker(4)'),
    lower: (c, a) => rotateAbout(c, a.flow, a.node('angle'), a.node('pivot')),
  },
  {
    ...base,
    name: 'scale',
    stretches: [{ parameter: 'factor', fits: 'reciprocal' }],
    handles: [{ kind: 'size', factor: 'factor', about: 'pivot' }, onPivot],
    summary: 'Scales the picture about a pivot',
    uses: 'zoom, bigger, smaller, grow',
    help: '2 shows the picture twice as large. A vec2 scales each axis separately.',
    parameters: [at, parameter('factor', ['number', 'vec2'], 'The scale factor.', { range: [0.1, 4] }), pivotParameter],
    example: shows('uv |> scale(swing(1, 2, 1 lap)) |> checker(4)'),
    lower: ({ b }, a) => b.add(b.div(b.sub(a.flow, a.node('pivot')), a.node('factor')), a.node('pivot')),
  },
  {
    ...base,
    name: 'flip',
    summary: 'Mirrors the picture across the middle',
    uses: 'mirror, reverse direction',
    help: 'flip(u) swaps left and right, flip(v) top and bottom.',
    parameters: [at, parameter('axis', 'keyword', 'u, v or both.', { options: ['u', 'v', 'both'], default: 'u' })],
    example: shows('uv |> flip(u) |> linear_gradient(0deg)'),
    lower: ({ b }, a) => {
      const axis = a.keyword('axis');
      const mirrored = b.sub(1, a.flow);
      return b.vec(axis === 'v' ? b.x(a.flow) : b.x(mirrored), axis === 'u' ? b.y(a.flow) : b.y(mirrored));
    },
  },
  {
    ...centred,
    ...base,
    name: 'polar',
    summary: 'Converts to angle and distance around a centre',
    uses: 'radial, circle, outward, rings, drain, round',
    help: 'x is the angle in turns, 0..1 counter-clockwise from the right; y is the distance, 1 at one UV unit from the centre.',
    parameters: [at, centerParameter],
    example: shows('uv |> polar() |> tile(6, 4) |> pan(1 lap, heading: 270deg) |> checker(1)'),
    lower: ({ b }, a) => {
      const d = b.sub(a.flow, a.node('center'));
      const angle = b.fract(b.div(b.atan2(b.neg(b.y(d)), b.x(d)), TAU));
      return b.vec(angle, b.length(d));
    },
  },
  {
    ...centred,
    ...base,
    name: 'swirl',
    summary: 'Twists the picture within a radius, most at the centre',
    uses: 'twist, whirl, vortex, spiral',
    help: 'The twist falls off smoothly to zero at the radius.',
    parameters: [
      at,
      parameter('angle', 'angle', 'The rotation at the centre.', { range: [-1, 1], sample: '45deg' }),
      parameter('radius', 'number', 'The radius of the twist.', { default: 0.5, range: [0, 1] }),
      centerParameter,
    ],
    example: shows('uv |> swirl(swing(-180deg, 180deg, 1 lap)) |> checker(8)'),
    lower: (c, a) => {
      const { b } = c;
      const share = b.sub(1, smoothRise(c, 0, a.node('radius'), b.length(b.sub(a.flow, a.node('center')))));
      return rotateAbout(c, a.flow, b.mul(a.node('angle'), share), a.node('center'));
    },
  },
  {
    ...centred,
    ...base,
    name: 'bulge',
    summary: 'Bulges or pinches the picture within a radius',
    uses: 'lens, swell, pinch, magnify',
    help: 'Above 0 swells, below 0 pinches; nothing changes from the radius on.',
    parameters: [
      at,
      amountParameter('0 leaves it unchanged, 1 bulges it most, negative values pinch.', 1),
      parameter('radius', 'number', 'The radius.', { default: 0.5, range: [0, 1] }),
      centerParameter,
    ],
    example: shows('uv |> bulge(swing(-0.8, 0.8, 1 lap)) |> checker(8)'),
    lower: (c, a) => {
      const { b } = c;
      const d = b.sub(a.flow, a.node('center'));
      const share = b.sub(1, smoothRise(c, 0, a.node('radius'), b.length(d)));
      return b.add(a.node('center'), b.mul(d, b.sub(1, b.mul(a.node('amount'), share))));
    },
  },
  {
    ...base,
    name: 'pixelate',
    summary: 'Makes the coordinate constant within each cell of a grid',
    uses: 'blocks, pixel art, mosaic, low resolution',
    help: 'What follows is drawn in blocks, each with the value at its centre.',
    parameters: [at, parameter('cells', ['number', 'vec2'], 'Blocks along each axis.', { range: [1, 128] })],
    example: shows('uv |> pixelate(12) |> fbm(cells: 3)'),
    lower: ({ b }, a) => b.div(b.add(b.floor(b.mul(a.flow, a.node('cells'))), 0.5), a.node('cells')),
  },
  {
    ...base,
    name: 'distort',
    summary: 'Distorts the picture by a mask or noise',
    uses: 'warp, wobble, heat haze, ripple, bend, water',
    help: 'The push is 0..1, and 0.5 does not move anything. A number pushes both axes equally, a vec2 each separately.',
    parameters: [
      at,
      parameter('by', ['number', 'vec2'], 'The mask or noise that pushes, 0..1.', {
        sample: '(uv |> fbm(cells: 3, evolve: 1 lap))',
      }),
      parameter('amount', 'number', 'The largest push, in UV units.', { default: 0.1, range: [0, 0.5] }),
    ],
    example: shows('uv |> distort(uv |> fbm(cells: 3, evolve: 1 lap), amount: 0.3) |> checker(6)'),
    lower: ({ b }, a) => b.add(a.flow, b.mul(b.sub(a.node('by'), 0.5), a.node('amount'))),
  },
  {
    ...base,
    name: 'fit_aspect',
    summary: 'Keeps the picture undistorted on a wide or tall surface',
    uses: 'stretch, squashed, wide surface',
    help: 'The ratio is the width of the surface over its height.',
    parameters: [at, parameter('ratio', 'number', 'Width over height.', { range: [0.1, 10] })],
    example: shows('uv |> fit_aspect(2) |> checker(4)'),
    lower: ({ b }, a) => b.mul(a.flow, b.vec(b.max(a.node('ratio'), 1), b.max(b.div(1, a.node('ratio')), 1))),
  },
];
