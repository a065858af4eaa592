import type { Builder } from '../ir/builder.ts';
import { widthOf, type Node } from '../ir/node.ts';

/**
 * Integer hash of 32 bits: xorshift-multiply with full avalanche, constants found by exhaustive
 * search (C. Wellons, "Prospecting for hash functions", 2018, the `lowbias32` of that text).
 */
export function hash(b: Builder, value: Node): Node {
  let h = b.xor(value, b.shr(value, 16));
  h = b.mul(h, 0x7feb352d);
  h = b.xor(h, b.shr(h, 15));
  h = b.mul(h, 0x846ca68b);
  return b.xor(h, b.shr(h, 16));
}

/**
 * Ends the hash of a lattice corner, whose axes went through `axisHash`: a multiplication and a shift spread what they
 * joined.
 */
export function corner(b: Builder, value: Node): Node {
  const h = b.mul(value, 0x846ca68b);
  return b.xor(h, b.shr(h, 15));
}

/** Odd multipliers that keep the axes of a lattice apart. */
const AXES = [0x9e3779b1, 0x85ebca77, 0xc2b2ae3d, 0x27d4eb2f] as const;

/** 1.5 * 2^23: a whole number below 2^22 added to it stands in the lowest bits of the sum. */
const WHOLE = 12582912;

/** Hash of a lattice index along one axis: a whole number, 0 to 2^22. */
export function axisHash(b: Builder, axis: number, index: Node): Node {
  const h = b.mul(b.bitcast('u', b.add(index, WHOLE)), AXES[axis] ?? 1);
  return b.xor(h, b.shr(h, 15));
}

/** 6t^5 - 15t^4 + 10t^3: a rise with no first or second derivative at its ends (K. Perlin, 2002). */
export const fade = (b: Builder, t: Node): Node =>
  b.mul(b.mul(b.mul(t, t), t), b.add(b.mul(t, b.sub(b.mul(t, 6), 15)), 10));

/** One axis of a lattice around a position: hashes of the two nearest lines, and how far it is between them. */
export interface LatticeAxis {
  readonly low: Node;
  readonly high: Node;
  /** How far the position is from the lower line to the higher, 0..1. */
  readonly t: Node;
  /** The fade of t, where it is known already. */
  readonly weight?: Node;
}

/**
 * Splits a position, counted in periods, into lattice axes of `cells` whole cells each. Index `cells` is
 * index 0 again, so that what is built on it repeats exactly, bit for bit.
 */
export function latticeAxes(b: Builder, position: Node, cells: Node): LatticeAxis[] {
  const scaled = b.mul(b.fract(position), cells);
  const low = b.floor(scaled);
  const t = b.sub(scaled, low);
  return Array.from({ length: widthOf(position.type) }, (_, i) => {
    const size = widthOf(cells.type) === 1 ? cells : b.swizzle(cells, i);
    const index = b.swizzle(low, i);
    const next = b.add(index, 1);
    return {
      low: axisHash(b, i, index),
      high: axisHash(b, i, b.select(b.lt(next, size), next, 0)),
      t: b.swizzle(t, i),
    };
  });
}

const fadesOf = (b: Builder, axes: readonly LatticeAxis[]): Node[] =>
  axes.map((axis) => axis.weight ?? fade(b, axis.t));

const SIGNED = 2 ** -31;

/** Value noise: one random number a corner, mixed. Range -1..1, mean 0. */
export function valueNoise(b: Builder, axes: readonly LatticeAxis[], seed: Node): Node {
  const fades = fadesOf(b, axes);
  const mixed = (k: number, hash: Node): Node => {
    const axis = axes[k];
    if (!axis) return b.convert('f', b.convert('i', corner(b, hash)));
    return b.mix(mixed(k + 1, b.xor(hash, axis.low)), mixed(k + 1, b.xor(hash, axis.high)), fades[k]!);
  };
  return b.mul(mixed(0, seed), SIGNED);
}

/** Gradients mixed over some axes: their slopes along the axes before those, and what they add along those. */
interface MixedGradients {
  readonly slopes: readonly Node[];
  readonly added: Node | undefined;
}

/**
 * Gradient noise (K. Perlin, "Improving noise", 2002), with gradients drawn evenly from the cube
 * rather than from its edges, so that every component comes from the corner's hash by a shift.
 * A corner adds at most the sum of its offsets, so the result lies within n/2 for n axes, mean 0.
 *
 * The sum is taken axis by axis, the last first, and slopes are mixed before they are multiplied by the offset: along the
 * first axis what is left is a slope and a height for each line, which do not depend on where between two lines it is.
 */
export function gradientNoise(b: Builder, axes: readonly LatticeAxis[], seed: Node): Node {
  const bits = Math.floor(32 / axes.length);
  const fades = fadesOf(b, axes);
  const slopesOf = (h: Node): Node[] =>
    axes.map((_, i) => b.convert('f', b.convert('i', i === 0 ? h : b.shl(h, bits * i))));
  const mixed = (k: number, hash: Node): MixedGradients => {
    const axis = axes[k];
    if (!axis) return { slopes: slopesOf(corner(b, hash)), added: undefined };
    const [low, high] = [mixed(k + 1, b.xor(hash, axis.low)), mixed(k + 1, b.xor(hash, axis.high))];
    const along = ({ slopes, added }: MixedGradients, offset: Node): Node => {
      const own = b.mul(slopes[k]!, offset);
      return added ? b.add(added, own) : own;
    };
    const weight = fades[k]!;
    return {
      slopes: Array.from({ length: k }, (_, i) => b.mix(low.slopes[i]!, high.slopes[i]!, weight)),
      added: b.mix(along(low, axis.t), along(high, b.sub(axis.t, 1)), weight),
    };
  };
  return b.mul(mixed(0, seed).added!, SIGNED);
}
