import type { Builder } from '../ir/builder.ts';
import { widthOf, type Node } from '../ir/node.ts';
import { axisHash, corner, gradientNoise, latticeAxes, valueNoise, type LatticeAxis } from './lattice.ts';

/** The noises that fractals can be built on. */
export const BASES = ['gradient', 'value', 'simplex', 'cellular'] as const;
export type Basis = (typeof BASES)[number];

/** The two patterns of this moment that an evolving noise lies between, as hashes, and how far this moment is between them, 0..1. */
export interface TimeCells {
  readonly before: Node;
  readonly after: Node;
  readonly t: Node;
  /** How much of the second pattern there is: the fade of t. */
  readonly weight: Node;
}

/** A random direction or offset of a lattice point: components -1..1, from the hash by shifts. */
function components(b: Builder, h: Node, count: number): Node[] {
  const bits = Math.floor(32 / count);
  return Array.from({ length: count }, (_, i) =>
    b.mul(b.convert('f', b.convert('i', i === 0 ? h : b.shl(h, bits * i))), 2 ** -31),
  );
}

/**
 * The same, on its within from one pattern to the next. `even` divides by the length of the weights, so
 * that what is mixed varies as much half-within as at the ends.
 */
function between(b: Builder, h: Node, count: number, timeCells: TimeCells | undefined, even: boolean): Node[] {
  if (!timeCells) return components(b, corner(b, h), count);
  const { weight } = timeCells;
  const rest = b.sub(1, weight);
  const scale = even ? b.div(1, b.sqrt(b.add(b.mul(weight, weight), b.mul(rest, rest)))) : b.number(1);
  const [first, second] = [
    components(b, corner(b, b.xor(h, timeCells.before)), count),
    components(b, corner(b, b.xor(h, timeCells.after)), count),
  ];
  return first.map((x, i) => b.mul(b.mix(x, second[i]!, weight), scale));
}

const axesOf = (b: Builder, position: Node, cells: Node, timeCells: TimeCells | undefined): LatticeAxis[] => [
  ...latticeAxes(b, position, cells),
  ...(timeCells ? [{ low: timeCells.before, high: timeCells.after, t: timeCells.t, weight: timeCells.weight }] : []),
];

const indexHash = (b: Builder, indices: readonly Node[], seed: Node): Node =>
  indices.reduce((h, index, axis) => b.xor(h, axisHash(b, axis, index)), seed);
const dotOf = (b: Builder, xs: readonly Node[], ys: readonly Node[]): Node =>
  xs.map((x, i) => b.mul(x, ys[i]!)).reduce((sum, t) => b.add(sum, t));

/** What one point of a simplex lattice adds: its slope, fading with the distance. */
function simplexTerm(
  b: Builder,
  away: readonly Node[],
  h: Node,
  timeCells: TimeCells | undefined,
  reach: number,
): Node {
  const fall = b.max(b.sub(reach, dotOf(b, away, away)), 0);
  const squared = b.mul(fall, fall);
  return b.mul(b.mul(squared, squared), dotOf(b, between(b, h, away.length, timeCells, true), away));
}

/**
 * Simplex noise that tiles (S. Gustavson and I. McEwan, "Tiling simplex noise and flow noise in two and
 * three dimensions", JCGT 11(1), 2022): triangles of unit height in 2D, whose rows shift by a half, so
 * that there are an even number of rows; tetrahedra in 3D. Signed, mean 0.
 */
function simplexNoise(b: Builder, position: Node, cells: Node, seed: Node, timeCells: TimeCells | undefined): Node {
  return widthOf(position.type) === 2
    ? simplex2(b, position, cells, seed, timeCells)
    : simplex3(b, position, cells, seed, timeCells);
}

function simplex2(b: Builder, position: Node, cells: Node, seed: Node, timeCells: TimeCells | undefined): Node {
  const rows = b.mul(b.max(b.floor(b.add(b.mul(b.y(cells), 0.5), 0.5)), 1), 2);
  const size = b.vec(b.x(cells), rows);
  const at = b.mul(b.fract(position), size);
  const skewed = b.vec(b.add(b.x(at), b.mul(b.y(at), 0.5)), b.y(at));
  const low = b.floor(skewed);
  const within = b.sub(skewed, low);
  const right = b.truth(b.le(b.y(within), b.x(within)));
  const corners = [
    [b.number(0), b.number(0)],
    [right, b.sub(1, right)],
    [b.number(1), b.number(1)],
  ] as const;
  const terms = corners.map(([dx, dy]) => {
    const [i, j] = [b.add(b.x(low), dx), b.add(b.y(low), dy)];
    const point = b.vec(b.sub(i, b.mul(j, 0.5)), j);
    const wrapped = b.mod(point, size);
    const column = b.floor(b.add(b.add(b.x(wrapped), b.mul(b.y(wrapped), 0.5)), 0.5));
    const away = b.sub(at, point);
    return simplexTerm(b, [b.x(away), b.y(away)], indexHash(b, [column, b.y(wrapped)], seed), timeCells, 0.8);
  });
  return terms.reduce((sum, t) => b.add(sum, t));
}

function simplex3(b: Builder, position: Node, cells: Node, seed: Node, timeCells: TimeCells | undefined): Node {
  const at = b.mul(b.fract(position), cells);
  // Sums of pairs of coordinates: (y + z, x + z, x + y). Back by half the difference of sums.
  const forth = (v: Node): Node => b.add(b.swizzle(v, 1, 0, 0), b.swizzle(v, 2, 2, 1));
  const back = (v: Node): Node => b.sub(b.mul(b.dot(v, b.constant('f3', [1, 1, 1])), 0.5), v);
  const skewed = forth(at);
  const low = b.floor(skewed);
  const within = b.sub(skewed, low);
  const least = b.truth(b.le(b.swizzle(within, 0, 1, 0), b.swizzle(within, 1, 2, 2)));
  const rest = b.sub(1, least);
  const [g, l] = [b.vec(b.z(rest), b.swizzle(least, 0, 1)), b.vec(b.swizzle(rest, 0, 1), b.z(least))];
  const offsets = [b.constant('f3', [0, 0, 0]), b.min(g, l), b.max(g, l), b.constant('f3', [1, 1, 1])];
  const terms = offsets.map((offset) => {
    const point = back(b.add(low, offset));
    const away = b.sub(at, point);
    const index = b.floor(b.add(forth(b.mod(point, cells)), 0.5));
    return simplexTerm(
      b,
      [b.x(away), b.y(away), b.z(away)],
      indexHash(b, [b.x(index), b.y(index), b.z(index)], seed),
      timeCells,
      0.5,
    );
  });
  return terms.reduce((sum, t) => b.add(sum, t));
}

/**
 * Cellular noise (S. Worley, "A cellular texture basis function", 1996) with one point a cell: distances
 * to the nearest and the second nearest point, in cells. Points move from pattern to pattern as it evolves.
 */
export function cellDistances(
  b: Builder,
  position: Node,
  cells: Node,
  seed: Node,
  timeCells: TimeCells | undefined,
): { nearest: Node; second: Node } {
  const dimensions = widthOf(position.type);
  const at = b.mul(b.fract(position), cells);
  const low = b.floor(at);
  const within = b.sub(at, low);
  const lines = Array.from({ length: dimensions }, (_, axis) =>
    [-1, 0, 1].map((step) => {
      const size = b.swizzle(cells, axis);
      const index = b.add(b.swizzle(low, axis), step);
      const wrapped =
        step < 0
          ? b.select(b.lt(index, 0), b.add(index, size), index)
          : step > 0
            ? b.select(b.lt(index, size), index, 0)
            : index;
      return { step, hash: axisHash(b, axis, wrapped) };
    }),
  );
  let nearest = b.number(8);
  let second = b.number(8);
  const visit = (axis: number, h: Node, steps: readonly number[]): void => {
    const line = lines[axis];
    if (line) {
      for (const { step, hash } of line) visit(axis + 1, b.xor(h, hash), [...steps, step]);
      return;
    }
    const point = between(b, h, dimensions, timeCells, false).map((x, i) => b.add(b.mul(x, 0.5), steps[i]! + 0.5));
    const away = point.map((x, i) => b.sub(x, b.swizzle(within, i)));
    const squared = dotOf(b, away, away);
    second = b.min(second, b.max(nearest, squared));
    nearest = b.min(nearest, squared);
  };
  visit(0, seed, []);
  return { nearest: b.sqrt(nearest), second: b.sqrt(second) };
}

type NoiseFunction = (b: Builder, position: Node, cells: Node, seed: Node, timeCells: TimeCells | undefined) => Node;

/**
 * Signed noises of one octave, mean near 0. The factors bring the standard deviation over the square to
 * 0.34 to 0.4, measured, so that one basis can stand for another; what passes -1..1 (under 1 in 100) is clamped by the
 * operations.
 */
export const BASIS_FUNCTIONS: Record<Basis, NoiseFunction> = {
  gradient: (b, position, cells, seed, timeCells) => {
    const axes = axesOf(b, position, cells, timeCells);
    return b.mul(gradientNoise(b, axes, seed), [0, 0, 1.75, 1.75, 1.9][axes.length] ?? 1.75);
  },
  value: (b, position, cells, seed, timeCells) => {
    const axes = axesOf(b, position, cells, timeCells);
    return b.mul(valueNoise(b, axes, seed), [0, 0, 0.8, 0.9, 1.1][axes.length] ?? 1);
  },
  simplex: (b, position, cells, seed, timeCells) =>
    b.mul(simplexNoise(b, position, cells, seed, timeCells), widthOf(position.type) === 2 ? 10 : 92),
  // The nearest point lies 0.43 of a cell away on average in 2D, 0.52 in 3D.
  cellular: (b, position, cells, seed, timeCells) => {
    const { nearest } = cellDistances(b, position, cells, seed, timeCells);
    return b.mul(b.sub(nearest, widthOf(position.type) === 2 ? 0.43 : 0.52), 2);
  },
};

/** A random number 0..1 for each cell of a lattice, cut hard from cell to cell. */
export function whiteNoise(
  b: Builder,
  position: Node,
  cells: Node,
  seed: Node,
  timeCells: TimeCells | undefined,
): Node {
  const low = b.floor(b.mul(b.fract(position), cells));
  const h = indexHash(
    b,
    Array.from({ length: widthOf(position.type) }, (_, i) => b.swizzle(low, i)),
    timeCells ? b.xor(seed, timeCells.before) : seed,
  );
  return b.mul(b.convert('f', b.shr(corner(b, h), 8)), 2 ** -24);
}
