import type { Node } from '../ir/node.ts';
import { widthOf } from '../ir/node.ts';
import { gradientNoise, hash, latticeAxes, valueNoise, type LatticeAxis } from './lattice.ts';
import { flow, shows, type Arguments, type LowerContext, type Operation, type OperationParameter } from './operation.ts';
import { parameter } from './shared.ts';

/** Most octaves a fractal may add up. */
export const OCTAVE_LIMIT = 12;

/**
 * Contrast: what the signed noise is multiplied by so that its standard deviation over the
 * square is near 0.36, measured over 10^6 samples; what passes -1..1 (under 1 in 150) is clamped.
 */
const CONTRAST = { gradient: 1.75, value: 1 } as const;
type Basis = keyof typeof CONTRAST;

const at = flow('at', 'vec2', 'vec3');
const cells = parameter('cells', ['number', 'vec2', 'vec3'], 'Whole lattice cells per UV unit: one number, or one per axis.', {
  default: 4,
  range: [1, 32],
  whole: true,
});
const evolve = parameter('evolve', 'rate', 'Fresh patterns: whole laps come back by construction, a rate per second never does.', {
  default: 0,
  range: [0, 6],
});
const seed = parameter('seed', 'number', 'Another number, another pattern.', { default: 0, range: [0, 99] });
const octaves = parameter('octaves', 'number', 'Layers added up, each twice as fine.', {
  default: 4,
  range: [1, OCTAVE_LIMIT],
  strict: true,
  constant: true,
  whole: true,
});
const gain = parameter('gain', 'number', 'Strength of each layer against the one before.', { default: 0.5, range: [0, 1] });
const basis = parameter('basis', 'keyword', 'The noise that is added up.', { options: ['gradient', 'value'], default: 'gradient' });

/** The time axis of an evolving noise: two fresh patterns out and back for each lap. */
interface Slices {
  readonly low: Node;
  readonly high: Node;
  readonly way: Node;
}

/**
 * One lap passes two cells of a time lattice, out to a fresh pattern and back. Whole laps wrap the
 * lattice after as many cells as a loop passes; otherwise its period is 2^30 cells.
 * Everything here depends on dials and time alone, so it is computed once a frame in float64.
 */
function slicesOf({ b, loops }: LowerContext, a: Arguments): Slices | undefined {
  const rate = a.node('evolve');
  if (rate.kind === 'constant' && rate.payload[0] === 0) return undefined;
  const place = b.mul(b.mul(rate, 2), loops);
  const low = b.floor(place);
  const whole = a.inLaps('evolve') ? b.eq(b.fract(rate), 0) : b.constant('b1', [0]);
  const period = b.select(whole, b.max(b.mul(b.abs(rate), 2), 1), 2 ** 30);
  const line = (index: Node): Node => hash(b, b.convert('u', b.convert('i', b.mod(index, period))));
  return { low: line(low), high: line(b.add(low, 1)), way: b.sub(place, low) };
}

const seedNode = ({ b }: LowerContext, a: Arguments, octave: number): Node =>
  hash(b, b.add(b.convert('u', b.convert('i', b.floor(a.node('seed')))), Math.imul(octave + 1, 0x51ed270b) >>> 0));

const FUNCTIONS: Record<Basis, (b: LowerContext['b'], axes: readonly LatticeAxis[], seed: Node) => Node> = {
  gradient: gradientNoise,
  value: valueNoise,
};

/** Cells per axis, whole and at least one. */
function wholeCells({ b }: LowerContext, a: Arguments, width: number): Node {
  const given = a.node('cells');
  return b.splat(b.max(b.floor(b.add(widthOf(given.type) > width ? b.pick(given, ...Array.from({ length: width }, (_, i) => i)) : given, 0.5)), 1), width);
}

/** One octave, signed, through a function that all octaves of its shape share. */
function octave(c: LowerContext, a: Arguments, kind: Basis, index: number, slices: Slices | undefined): Node {
  const { b } = c;
  const place = a.flow;
  const dimensions = widthOf(place.type);
  const lattice = b.mul(wholeCells(c, a, dimensions), 2 ** index);
  const name = `${kind}_noise_${String(dimensions)}${slices ? '_evolving' : ''}`;
  const about = `${kind === 'gradient' ? 'Gradient' : 'Value'} noise on a lattice that repeats every unit of its place${slices ? ', between two patterns' : ''}; signed.`;
  const scale = CONTRAST[kind] * (kind === 'gradient' && dimensions + (slices ? 1 : 0) > 2 ? 1.0 : 1);
  if (!slices) {
    return b.call(
      name,
      about,
      [
        ['place', place],
        ['cells', lattice],
        ['seed', seedNode(c, a, index)],
      ],
      (inner, p, n, s) => inner.mul(FUNCTIONS[kind](inner, latticeAxes(inner, p, n), s), scale),
    );
  }
  return b.call(
    name,
    about,
    [
      ['place', place],
      ['cells', lattice],
      ['seed', seedNode(c, a, index)],
      ['before', slices.low],
      ['after', slices.high],
      ['way', slices.way],
    ],
    (inner, p, n, s, low, high, way) => inner.mul(FUNCTIONS[kind](inner, [...latticeAxes(inner, p, n), { low: low, high: high, way: way }], s), scale),
  );
}

const unsigned = ({ b }: LowerContext, value: Node): Node => b.clamp(b.add(b.mul(value, 0.5), 0.5), 0, 1);

const single = (name: Basis, summary: string, help: string): Operation => ({
  name,
  family: 'noise',
  result: 'number',
  summary,
  help,
  parameters: [at, cells, evolve, seed],
  example: shows(`uv |> ${name}(cells: 6, evolve: 1 laps)`),
  lower: (c, a) => unsigned(c, octave(c, a, name, 0, slicesOf(c, a))),
});

type Fold = (c: LowerContext, value: Node) => Node;

/** Adds octaves with falling strength; divided by the root of the summed squares, so that contrast does not depend on their number. */
function addUp(c: LowerContext, a: Arguments, fold: Fold): Node {
  const { b } = c;
  const slices = slicesOf(c, a);
  let [sum, strength, squares]: [Node, Node, Node] = [b.number(0), b.number(1), b.number(0)];
  for (let i = 0; i < a.number('octaves'); i++) {
    sum = b.add(sum, b.mul(fold(c, octave(c, a, a.keyword('basis') as Basis, i, slices)), strength));
    squares = b.add(squares, b.mul(strength, strength));
    strength = b.mul(strength, a.node('gain'));
  }
  return b.div(sum, b.sqrt(squares));
}

const fractalParameters: readonly OperationParameter[] = [at, cells, octaves, gain, evolve, seed, basis];

export const noise: readonly Operation[] = [
  single('value', 'Soft random blotches on a lattice', 'One random value a lattice point, mixed smoothly. Mean 0.5, 0..1.'),
  single('gradient', 'Even, cloudy noise on a lattice', 'Random slopes at lattice points, mixed smoothly: no blotch sits on a lattice point. Mean 0.5, 0..1.'),
  {
    name: 'fbm',
    family: 'noise',
    result: 'number',
    summary: 'Noise with finer and finer detail: clouds, mist, stone',
    help: 'Fractional Brownian motion: octaves of noise, each twice as fine as the one before and gain times as strong. Tiles, since every octave has whole cells. Mean 0.5, 0..1.',
    parameters: fractalParameters,
    example: shows('uv |> fbm(cells: 4, octaves: 5, evolve: 1 laps)'),
    lower: (c, a) =>
      unsigned(
        c,
        addUp(c, a, (_, value) => value),
      ),
  },
];
