import { widthOf, type Node } from '../ir/node.ts';
import { flow, shows, type LowerContext, type Operation } from './operation.ts';
import { directionOf, HAIR, onPivot, parameter, pivotParameter, rotateAbout, TAU } from './shared.ts';

const at = flow('at', 'vec2');
const rateParameter = parameter(
  'rate',
  'rate',
  'Speed: 2 laps are two periods per loop, 0.5/s is one every two seconds.',
  {
    range: [-6, 6],
  },
);
const SHAPES = ['sine', 'triangle', 'saw', 'square'] as const;
const shapeParameter = parameter('shape', 'keyword', 'sine, triangle, saw or square.', {
  options: SHAPES,
  default: 'sine',
});
const offsetParameter = parameter('offset', 'number', 'The phase, 0..1: where in its period it starts.', {
  default: 0,
  range: [0, 1],
});

/** Periods gone by: the rate, in periods a loop, times the loops since the start. */
const cycles = ({ b, loops }: LowerContext, rate: Node): Node => b.mul(rate, loops);

/** A wave of this shape at a place in its period; 0 at place 0 (square: 0 in the first half), 0..1. */
function shaped({ b }: LowerContext, place: Node, shape: string): Node {
  const p = b.fract(place);
  switch (shape) {
    case 'saw':
      return p;
    case 'triangle':
      return b.sub(1, b.abs(b.sub(b.mul(p, 2), 1)));
    case 'square':
      return b.truth(b.le(0.5, p));
    default:
      return b.sub(0.5, b.mul(b.cos(b.mul(p, TAU)), 0.5));
  }
}

const moves = { family: 'motion', result: 'vec2', keepsCoordinates: true } as const;
const scalar = { family: 'motion', result: 'number' } as const;

export const motion: readonly Operation[] = [
  {
    ...moves,
    name: 'pan',
    handles: [{ kind: 'travel', rate: 'rate', heading: 'heading', right: 'right', up: 'up' }],
    summary: 'Scrolls the picture at a constant speed',
    uses: 'scroll, slide, flow, move, conveyor, waterfall, travel',
    help: 'The heading is the direction of the picture: 0deg right, 90deg up, 180deg left, 270deg down. One period is one repeat of the picture. For a diagonal scroll that loops, set right and up instead, each with its own rate.',
    parameters: [
      at,
      { ...rateParameter, optional: true, sample: '1 lap' },
      parameter('heading', 'angle', 'The direction of the picture.', { default: 0, range: [0, 1], sample: '0deg' }),
      parameter('right', 'rate', 'Rate to the right.', { optional: true, named: true, range: [-6, 6] }),
      parameter('up', 'rate', 'Rate upwards.', { optional: true, named: true, range: [-6, 6] }),
    ],
    needs: (given) => {
      const axes = given.has('right') || given.has('up');
      if (!axes && !given.has('rate')) return "'rate', a rate such as 1 lap or 0.25/s";
      return axes && (given.has('rate') || given.has('heading'))
        ? "either 'rate' and 'heading', or 'right' and 'up', not both"
        : undefined;
    },
    example: shows('uv |> tile(2, 2) |> pan(1 lap, heading: 270deg) |> checker(2)'),
    lower: (c, a) => {
      const { b } = c;
      if (a.has('rate')) return b.sub(a.flow, b.mul(directionOf(c, a.node('heading')), cycles(c, a.node('rate'))));
      const along = (name: string): Node => (a.has(name) ? cycles(c, a.node(name)) : b.number(0));
      return b.sub(a.flow, b.vec(along('right'), b.neg(along('up'))));
    },
  },
  {
    ...moves,
    name: 'spin',
    handles: [{ kind: 'turning', angle: 'rate', about: 'pivot', moves: true }, onPivot],
    summary: 'Rotates the picture at a constant speed about a pivot',
    uses: 'rotate, turn round, wheel, rotor',
    help: 'One period is one whole turn; positive rates turn counter-clockwise, as seen.',
    parameters: [at, rateParameter, pivotParameter],
    example: shows('uv |> spin(1 lap) |> checker(4)'),
    lower: (c, a) => rotateAbout(c, a.flow, cycles(c, a.node('rate')), a.node('pivot')),
  },
  {
    ...moves,
    name: 'flipbook',
    summary: 'Plays the frames of a flipbook sheet',
    uses: 'sprite sheet, frames, animation',
    help: 'Frames go from the top left, row by row. One period shows every frame once.',
    parameters: [
      at,
      parameter('columns', 'number', 'Frames across the sheet.', { range: [1, 16], whole: true }),
      parameter('rows', 'number', 'Frames down the sheet.', { range: [1, 16], whole: true }),
      rateParameter,
    ],
    example: shows('uv |> flipbook(4, 4, 1 lap) |> sample(sheet)', 'image sheet = "example"'),
    lower: (c, a) => {
      const { b } = c;
      const [columns, rows] = [a.node('columns'), a.node('rows')];
      const index = b.floor(b.add(b.mul(b.fract(cycles(c, a.node('rate'))), b.mul(columns, rows)), HAIR));
      const column = b.mod(index, columns);
      const row = b.floor(b.div(b.add(index, HAIR), columns));
      return b.div(b.add(b.fract(a.flow), b.vec(column, row)), b.vec(columns, rows));
    },
  },
  {
    family: 'motion',
    result: 'vec2',
    name: 'follow',
    summary: 'Moves a picture along a path map',
    uses: 'along a path, curve, track, sap, blood',
    help: 'The input is the sample of a path map: x the distance along it, y the position across it, z where the path is. The result is a coordinate that moves along the path; one period is the whole path. A map drawn in Sources has 1 - |2x - 1| in w, so a closed path has no hairline at its start; a w of 1 means it has none.',
    parameters: [flow('path', 'vec3', 'vec4'), rateParameter],
    example: shows('(uv |> polar()).xyx |> follow(1 lap) |> tile(8, 4) |> checker(1)'),
    lower: (c, a) => {
      const { b } = c;
      const x = b.x(a.flow);
      // Between two texels x may be anything where a closed path starts over; w is not, and x only tells which half it
      // is.
      const way = (w: Node): Node =>
        b.select(b.le(1, w), x, b.select(b.lt(x, 0.5), b.mul(w, 0.5), b.sub(1, b.mul(w, 0.5))));
      // The way along repeats every 1, and says so, so that its start draws no hairline either.
      return b.vec(
        b.sub(b.fract(widthOf(a.flow.type) === 4 ? way(b.w(a.flow)) : x), cycles(c, a.node('rate'))),
        b.y(a.flow),
      );
    },
  },
  {
    ...scalar,
    name: 'saw',
    jumps: { instead: { operation: 'wave', argument: 'shape: triangle' } },
    summary: 'Rises from 0 to 1 and restarts',
    uses: 'ramp up, progress, restart, scanline',
    help: 'Rises once per period, then jumps back: use wave for a smooth return.',
    parameters: [rateParameter],
    example: shows('saw(1 lap)'),
    lower: (c, a) => c.b.fract(cycles(c, a.node('rate'))),
  },
  {
    ...scalar,
    name: 'wave',
    lane: 'shape',
    jumps: { when: { parameter: 'shape', word: 'saw' }, instead: 'triangle' },
    summary: 'Goes from 0 to 1 and back, once per period',
    uses: 'pulse, breathe, blink, flicker, oscillate, fade in and out',
    help: 'Starts at 0. The offset shifts the start: 0.5 starts at 1.',
    parameters: [rateParameter, shapeParameter, offsetParameter],
    example: shows('wave(1 lap, shape: triangle)'),
    lower: (c, a) => shaped(c, c.b.add(cycles(c, a.node('rate')), a.node('offset')), a.keyword('shape')),
  },
  {
    family: 'motion',
    result: 'widest',
    name: 'swing',
    lane: 'shape',
    jumps: { when: { parameter: 'shape', word: 'saw' }, instead: 'triangle' },
    summary: 'Goes from low to high and back, once per period',
    uses: 'back and forth, sway, pendulum, oscillate between',
    help: 'A wave between two values of the same type: numbers, angles, colours.',
    parameters: [
      parameter('low', 'quantity', 'The start value.', { range: [0, 1] }),
      parameter('high', 'quantity', 'The end value.', { range: [0, 1] }),
      rateParameter,
      shapeParameter,
      offsetParameter,
    ],
    example: shows('uv |> turn(swing(-30deg, 30deg, 1 lap)) |> checker(4)'),
    lower: (c, a) =>
      c.b.mix(
        a.node('low'),
        a.node('high'),
        shaped(c, c.b.add(cycles(c, a.node('rate')), a.node('offset')), a.keyword('shape')),
      ),
  },
];
