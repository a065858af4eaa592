import { Forward, type Slopes } from '../ir/forward.ts';
import { widthOf, type Node } from '../ir/node.ts';
import { BASES, BASIS_FUNCTIONS, cellDistances, whiteNoise, type Basis, type TimeCells } from './bases.ts';
import { fade, hash } from './lattice.ts';
import {
  flow,
  shows,
  type Arguments,
  type LowerContext,
  type Operation,
  type OperationParameter,
} from './operation.ts';
import { HAIR, parameter } from './shared.ts';

/** Most octaves a fractal may add up. */
export const OCTAVE_LIMIT = 12;

const at = flow('at', 'vec2', 'vec3');
export const cellsParameter = parameter(
  'cells',
  ['number', 'vec2', 'vec3'],
  'Noise cells per UV unit: one whole number, or one per axis.',
  {
    default: 4,
    range: [1, 32],
    whole: true,
  },
);
const evolve = parameter(
  'evolve',
  'rate',
  'How fast the pattern changes: whole laps always loop, a rate per second never does.',
  {
    default: 0,
    range: [0, 6],
    // Noise that stands still shows little of what it can do.
    sample: '1 lap',
  },
);
export const seedParameter = parameter('seed', 'number', 'Selects the pattern.', {
  default: 0,
  range: [0, 99],
});
/** Noises are told apart by these; what evolves is no part of it. */
export const lattice = { cells: 'cells', seed: 'seed', kinds: ['basis'] } as const;
const octaves = parameter('octaves', 'number', 'Number of layers, each twice as fine as the one before.', {
  default: 4,
  range: [1, OCTAVE_LIMIT],
  strict: true,
  constant: true,
  whole: true,
});
const gain = parameter('gain', 'number', 'Strength of each layer relative to the one before.', {
  default: 0.5,
  range: [0, 1],
});
const basis = parameter('basis', 'keyword', 'The noise of the layers.', { options: BASES, default: 'gradient' });

/** One lap passes two cells of the time axis: out to a fresh pattern, and on. */
const CELLS_PER_LAP = 2;
/** The period of what is not to repeat, in cells: whole numbers up to it are exact. */
const ENDLESS = 2 ** 30;

/**
 * The time axis of an evolving noise. One lap passes two of its cells, out to a fresh pattern and on;
 * whole laps wrap it after as many cells as a loop passes, otherwise its period is 2^30 cells.
 * Where the rate depends on dials alone, all of this is computed once a frame in float64.
 */
export function timeCellsOf({ b, loops }: LowerContext, rate: Node, inLaps: boolean): TimeCells | undefined {
  if (rate.kind === 'constant' && rate.payload[0] === 0) return undefined;
  const position = b.mul(b.mul(rate, CELLS_PER_LAP), loops);
  const low = b.floor(b.add(position, HAIR));
  const wrapped = (index: Node): Node =>
    inLaps
      ? b.modKnown(
          index,
          b.select(b.eq(b.fract(rate), 0), b.max(b.mul(b.abs(rate), CELLS_PER_LAP), 1), ENDLESS),
          rate,
          { times: CELLS_PER_LAP },
        )
      : b.mod(index, ENDLESS);
  const line = (index: Node): Node => hash(b, b.convert('u', b.convert('i', wrapped(index))));
  const t = b.sub(position, low);
  return { before: line(low), after: line(b.add(low, 1)), t, weight: fade(b, t) };
}

export const seedNode = ({ b }: LowerContext, a: Arguments, octave: number): Node =>
  hash(b, b.add(b.convert('u', b.convert('i', b.floor(a.node('seed')))), Math.imul(octave + 1, 0x51ed270b) >>> 0));

/** Most cells along an axis: beyond, neighbouring floats are no longer neighbouring cells. */
const MOST_CELLS = 2 ** 22;

/** Cells per axis, whole and at least one. */
export function wholeCells({ b }: LowerContext, a: Arguments, width: number): Node {
  const given = a.node('cells');
  const fitting = widthOf(given.type) > width ? b.swizzle(given, ...Array.from({ length: width }, (_, i) => i)) : given;
  const filled = widthOf(fitting.type) === 2 && width === 3 ? b.vec(fitting, b.x(fitting)) : fitting;
  // In this order what is no number gives 1.
  return b.splat(b.min(MOST_CELLS, b.max(1, b.floor(b.add(filled, 0.5)))), width);
}

/** The seed among the parameters of a noise. */
const SEED = 2;

type Body = (b: LowerContext['b'], position: Node, cells: Node, seed: Node, timeCells: TimeCells | undefined) => Node;

/** Calls a noise through a function that all its uses of one shape share. */
export function noiseCall(
  c: LowerContext,
  name: string,
  about: string,
  position: Node,
  cells: Node,
  seed: Node,
  timeCells: TimeCells | undefined,
  body: Body,
): Node {
  const key = `${name}_${String(widthOf(position.type))}${timeCells ? '_evolving' : ''}`;
  const said = `${about}, on a lattice that repeats every unit of its position${timeCells ? '; between two patterns' : ''}.`;
  const parameters = [
    ['at', position],
    ['cells', cells],
    ['seed', seed],
  ] as const;
  if (!timeCells) return c.b.call(key, said, parameters, (b, p, n, s) => body(b, p, n, s, undefined), SEED);
  const { before, after, t, weight } = timeCells;
  return c.b.call(
    key,
    said,
    [...parameters, ['before', before], ['after', after], ['t', t], ['weight', weight]],
    (b, p, n, s, x, y, t, w) => body(b, p, n, s, { before: x, after: y, t, weight: w }),
    SEED,
  );
}

const ABOUT: Record<Basis, string> = {
  gradient: 'Gradient noise',
  value: 'Value noise',
  simplex: 'Simplex noise',
  cellular: 'Distance to the nearest of scattered points',
};

/** One octave of a basis, signed. */
function octave(
  c: LowerContext,
  a: Arguments,
  kind: Basis,
  index: number,
  timeCells: TimeCells | undefined,
  position = a.flow,
): Node {
  const cells = c.b.mul(wholeCells(c, a, widthOf(position.type)), 2 ** index);
  return noiseCall(
    c,
    `${kind}_noise`,
    ABOUT[kind],
    position,
    cells,
    seedNode(c, a, index),
    timeCells,
    BASIS_FUNCTIONS[kind],
  );
}

const evolution = (c: LowerContext, a: Arguments): TimeCells | undefined =>
  timeCellsOf(c, a.node('evolve'), a.inLaps('evolve'));
const unsigned = ({ b }: LowerContext, value: Node): Node => b.clamp(b.add(b.mul(value, 0.5), 0.5), 0, 1);

const single = (name: 'value' | 'gradient' | 'simplex', summary: string, uses: string, help: string): Operation => ({
  name,
  family: 'noise',
  result: 'number',
  lattice,
  summary,
  uses,
  help: `${help} Mean 0.5, 0..1.`,
  parameters: [at, cellsParameter, evolve, seedParameter],
  example: shows(`uv |> ${name}(cells: 6, evolve: 1 lap)`),
  lower: (c, a) => unsigned(c, octave(c, a, name, 0, evolution(c, a))),
});

/** Octaves of a basis, each folded, with falling strength; and the sums their strengths come to. */
function addUp(
  c: LowerContext,
  a: Arguments,
  position: Node,
  fold: (value: Node) => Node,
): { sum: Node; total: Node; squares: Node } {
  const { b } = c;
  const timeCells = evolution(c, a);
  let [sum, strength, total, squares]: [Node, Node, Node, Node] = [b.number(0), b.number(1), b.number(0), b.number(0)];
  for (let i = 0; i < a.number('octaves'); i++) {
    sum = b.add(sum, b.mul(fold(octave(c, a, a.keyword('basis') as Basis, i, timeCells, position)), strength));
    total = b.add(total, strength);
    squares = b.add(squares, b.mul(strength, strength));
    strength = b.mul(strength, a.node('gain'));
  }
  return { sum, total, squares };
}

/** Summed octaves, signed, with the contrast of one whatever their number. */
function summed(c: LowerContext, a: Arguments, position = a.flow): Node {
  const { sum, squares } = addUp(c, a, position, (value) => value);
  return c.b.div(sum, c.b.sqrt(squares));
}

const fractalParameters: readonly OperationParameter[] = [
  at,
  cellsParameter,
  octaves,
  gain,
  evolve,
  seedParameter,
  basis,
];

/** A fractal whose octaves are folded to 0..1 and averaged. */
const folded = (
  name: string,
  summary: string,
  uses: string,
  help: string,
  fold: (b: LowerContext['b'], signed: Node) => Node,
): Operation => ({
  name,
  family: 'noise',
  result: 'number',
  lattice,
  summary,
  uses,
  help: `${help} 0..1.`,
  parameters: fractalParameters,
  example: shows(`uv |> ${name}(cells: 4, octaves: 4, evolve: 1 lap)`),
  lower: (c, a) => {
    const { sum, total } = addUp(c, a, a.flow, (value) => fold(c.b, value));
    return c.b.div(sum, total);
  },
});

export const noise: readonly Operation[] = [
  {
    name: 'white',
    family: 'noise',
    result: 'number',
    lattice,
    summary: 'A random value for each cell',
    uses: 'static, grain, random',
    help: 'Hard from cell to cell; as it evolves, all cells change at once, twice a period. Evenly spread over 0..1.',
    parameters: [at, cellsParameter, evolve, seedParameter],
    example: shows('uv |> white(cells: 12, evolve: 2 laps)'),
    lower: (c, a) =>
      noiseCall(
        c,
        'white_noise',
        'A random number a cell',
        a.flow,
        wholeCells(c, a, widthOf(a.flow.type)),
        seedNode(c, a, 0),
        evolution(c, a),
        whiteNoise,
      ),
  },
  single(
    'value',
    'Soft random blobs on a grid',
    'soft noise, blobs',
    'One random value per grid point, interpolated smoothly.',
  ),
  single(
    'gradient',
    'Even, cloudy noise on a grid',
    'smooth noise, soft clouds',
    'Random gradients at grid points, interpolated smoothly. Blobs do not line up with the grid.',
  ),
  single(
    'simplex',
    'Even noise on triangles, with few artefacts along the axes',
    'smooth noise without squares',
    'Random gradients at the corners of triangles or tetrahedra. In 2D the number of rows is even.',
  ),
  {
    name: 'cellular',
    family: 'noise',
    result: 'number',
    lattice,
    summary: 'Distance to scattered points: scales, stones, foam',
    uses: 'cells, scales, cracks, stones, caustics',
    help: 'nearest is 0 at each point and rises away from it, in cells; edge is 0 on the borders between points. 0..1; nearest has mean 0.43.',
    parameters: [
      at,
      cellsParameter,
      parameter('measure', 'keyword', 'nearest or edge.', { options: ['nearest', 'edge'], default: 'nearest' }),
      evolve,
      seedParameter,
    ],
    example: shows('uv |> cellular(cells: 5, measure: edge, evolve: 1 lap)'),
    lower: (c, a) => {
      const edge = a.keyword('measure') === 'edge';
      const about = edge
        ? 'How much nearer the nearest point is than the second'
        : 'Distance to the nearest of scattered points';
      const distance = noiseCall(
        c,
        `cell_${edge ? 'edge' : 'nearest'}`,
        about,
        a.flow,
        wholeCells(c, a, widthOf(a.flow.type)),
        seedNode(c, a, 0),
        evolution(c, a),
        (b, position, n, s, timeCells) => {
          const { nearest, second } = cellDistances(b, position, n, s, timeCells);
          return edge ? b.sub(second, nearest) : nearest;
        },
      );
      return c.b.clamp(distance, 0, 1);
    },
  },
  {
    name: 'fbm',
    family: 'noise',
    result: 'number',
    lattice,
    summary: 'Noise with finer and finer detail: clouds, mist, stone',
    uses: 'clouds, smoke, fog, mist, steam, marble',
    help: 'Fractional Brownian motion: octaves of noise, each twice as fine as the one before and gain times as strong. Tiles, because every octave has whole cells. Mean 0.5, 0..1.',
    parameters: fractalParameters,
    example: shows('uv |> fbm(cells: 4, octaves: 5, evolve: 1 lap)'),
    lower: (c, a) => unsigned(c, summed(c, a)),
  },
  folded(
    'ridged',
    'Sharp bright ridges: veins, lightning, mountains',
    'electricity, cracks, arcs, plasma',
    'Each octave is folded at its mean and inverted, so means become ridges. Mean 0.6.',
    (b, n) => {
      const ridge = b.max(b.sub(1, b.abs(n)), 0);
      return b.mul(ridge, ridge);
    },
  ),
  folded(
    'billow',
    'Round bright puffs between dark creases: smoke, foam',
    'puffs, bubbles, steam, cumulus',
    'Each octave is folded at its mean, so means become creases. Mean 0.26.',
    (b, n) => b.min(b.abs(n), 1),
  ),
  folded(
    'zigzag',
    'Bands folded back and forth: wood, contour lines',
    'bark, rings, marble, stripes of noise',
    'Each octave is amplified and folded back where it would leave 0..1. Mean 0.5.',
    (b, n) => b.abs(b.sub(b.mul(b.fract(b.add(n, 0.25)), 2), 1)),
  ),
  {
    name: 'curl',
    family: 'noise',
    result: 'vec2',
    lattice,
    summary: 'Swirling flow without sources or sinks, for distort',
    uses: 'swirling flow, smoke, turbulence',
    help: 'The gradient of a noise, rotated by 90 degrees (R. Bridson and others, "Curl-noise for procedural fluid flow", 2007)): it flows around the hills and never converges. Components 0..1, 0.5 is no push.',
    parameters: [flow('at', 'vec2'), cellsParameter, { ...octaves, default: 2 }, gain, evolve, seedParameter, basis],
    example: shows('uv |> distort(uv |> curl(cells: 3, evolve: 1 lap), amount: 0.3) |> checker(8)'),
    lower: (c, a) => {
      const { b } = c;
      const at = a.flow;
      const seeds = new Map<Node, Slopes>([[at, [b.constant('f2', [1, 0]), b.constant('f2', [0, 1])]]]);
      const [alongU, alongV] = new Forward(b, seeds, () => [b.zero('f4'), b.zero('f4')]).of(summed(c, a, at));
      // By cell. Slopes of a noise with this contrast rarely pass 3.
      const turned = b.div(b.vec(alongV, b.neg(alongU)), b.swizzle(wholeCells(c, a, 2), 1, 0));
      return b.clamp(b.add(b.mul(turned, 1 / 6), 0.5), 0, 1);
    },
  },
];
