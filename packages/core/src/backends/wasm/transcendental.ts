import type { Builder } from '../../ir/builder.ts';
import { GREATEST } from '../../diagnostics/limits.ts';
import { MOST_RADIANS } from '../../ir/kinds.ts';
import type { Node } from '../../ir/node.ts';

/**
 * Functions that WebAssembly has no instruction for, in arithmetic and bits. Polynomials are those of
 * S. Moshier's Cephes library in single precision; errors are the greatest met against float64 over the
 * ranges given, and tests hold them. Of what is not finite each gives 0, as `ir/kinds.ts` defines.
 */

const horner = (b: Builder, x: Node, ...coefficients: readonly number[]): Node => {
  const [first = 0, ...rest] = coefficients;
  return rest.reduce<Node>((sum, c) => b.add(b.mul(sum, x), c), b.number(first));
};

/** False of infinities and of what is no number. */
const isFinite = (b: Builder, x: Node): Node => b.le(b.abs(x), GREATEST);

/** e^x: 2 ULP for x in -87..88; below that 0, above it e^88. */
function exp(b: Builder, x: Node): Node {
  const clamped = b.clamp(x, -87.3, 88);
  const n = b.floor(b.add(b.mul(clamped, Math.LOG2E), 0.5));
  // x - n ln 2, with ln 2 in two parts so that the first product is exact.
  const r = b.sub(b.sub(clamped, b.mul(n, 0.693359375)), b.mul(n, -2.1219444e-4));
  const p = horner(
    b,
    r,
    1.98756915e-4,
    1.3981999507e-3,
    8.3334519073e-3,
    4.1665795894e-2,
    1.6666665459e-1,
    5.0000001201e-1,
  );
  const fraction = b.add(b.add(b.mul(p, b.mul(r, r)), r), 1);
  const power = b.bitcast('f', b.shl(b.add(b.convert('i', n), 127), 23));
  return b.select(b.and(b.le(-87.3, x), isFinite(b, x)), b.mul(fraction, power), 0);
}

/** ln x: 2 ULP for normal x above 0; 0 for x of 0 and below. */
function log(b: Builder, x: Node): Node {
  const bits = b.bitcast('i', b.max(x, 1.17549435e-38));
  const exponent = b.convert('f', b.sub(b.shr(bits, 23), 126));
  const mantissa = b.bitcast('f', b.or(b.and(bits, 0x007fffff), 0x3f000000));
  const small = b.lt(mantissa, Math.SQRT1_2);
  const e = b.sub(exponent, b.truth(small));
  const m = b.sub(b.add(mantissa, b.select(small, mantissa, 0)), 1);
  const z = b.mul(m, m);
  const p = horner(
    b,
    m,
    7.0376836292e-2,
    -1.151461031e-1,
    1.167699874e-1,
    -1.2420140846e-1,
    1.4249322787e-1,
    -1.6668057665e-1,
    2.0000714765e-1,
    -2.4999993993e-1,
    3.3333331174e-1,
  );
  const y = b.sub(b.add(b.mul(b.mul(p, m), z), b.mul(e, -2.1219444e-4)), b.mul(z, 0.5));
  return b.select(b.and(b.lt(0, x), b.le(x, GREATEST)), b.add(b.add(m, y), b.mul(e, 0.693359375)), 0);
}

/** Sine of x turned on by so many quarter turns: 2 ULP of 1 for |x| below 8192, worse in step up to MOST_RADIANS, 0 beyond. */
function sine(b: Builder, x: Node, quarters: number): Node {
  const n = b.floor(b.add(b.mul(x, 2 / Math.PI), 0.5));
  // pi / 2 in three parts (W. Cody and W. Waite, 1980).
  const r = b.sub(b.sub(b.sub(x, b.mul(n, 1.5703125)), b.mul(n, 4.837512969970703e-4)), b.mul(n, 7.549789948768648e-8));
  const quadrant = b.and(b.add(b.convert('i', n), quarters), 3);
  const z = b.mul(r, r);
  const s = b.add(b.mul(b.mul(horner(b, z, -1.9515295891e-4, 8.3321608736e-3, -1.6666654611e-1), z), r), r);
  const c = b.add(
    b.sub(
      b.mul(b.mul(horner(b, z, 2.443315711809948e-5, -1.388731625493765e-3, 4.166664568298827e-2), z), z),
      b.mul(z, 0.5),
    ),
    1,
  );
  const value = b.select(b.eq(b.and(quadrant, 1), 1), c, s);
  const turned = b.select(b.eq(b.and(quadrant, 2), 2), b.neg(value), value);
  return b.select(b.le(b.abs(x), MOST_RADIANS), turned, 0);
}

/** Angle of (x, y) in radians: 3 ULP of pi; 0 where both are 0. */
function atan2(b: Builder, y: Node, x: Node): Node {
  const [ax, ay] = [b.abs(x), b.abs(y)];
  const steep = b.lt(ax, ay);
  const ratio = b.div(b.min(ax, ay), b.max(ax, ay));
  // Above tan(pi / 8) the angle is pi / 4 and that of (r - 1) / (r + 1).
  const far = b.lt(0.414213562373095, ratio);
  const r = b.select(far, b.div(b.sub(ratio, 1), b.add(ratio, 1)), ratio);
  const z = b.mul(r, r);
  const p = b.add(
    b.mul(b.mul(horner(b, z, 8.05374449538e-2, -1.38776856032e-1, 1.99777106478e-1, -3.33329491539e-1), z), r),
    r,
  );
  const octant = b.add(p, b.select(far, Math.PI / 4, 0));
  const quadrant = b.select(steep, b.sub(Math.PI / 2, octant), octant);
  const half = b.select(b.lt(x, 0), b.sub(Math.PI, quadrant), quadrant);
  return b.select(b.le(b.add(ax, ay), GREATEST), b.select(b.lt(y, 0), b.neg(half), half), 0);
}

/** x^y as e^(y ln x): relative error below 2^-23 (2 + 2 |y ln x|); 0 for x below 0, 1 for 0^0. */
function pow(b: Builder, x: Node, y: Node): Node {
  const power = b.map('exp', b.clamp(b.mul(y, b.map('log', x)), -100, 88));
  const value = b.select(b.lt(0, x), power, b.truth(b.and(b.eq(x, 0), b.eq(y, 0))));
  return b.select(b.and(isFinite(b, x), isFinite(b, y)), value, 0);
}

/** A kind as a graph of legal kinds, of single components. */
export type Legal = (b: Builder, ...args: Node[]) => Node;

/** How kinds without an instruction are computed, by single components. */
export const TRANSCENDENTAL = {
  exp: { series: (b, x) => exp(b, x) },
  log: { series: (b, x) => log(b, x) },
  sin: { series: (b, x) => sine(b, x, 0) },
  cos: { series: (b, x) => sine(b, x, 1) },
  atan2: { series: (b, y, x) => atan2(b, y, x) },
  pow: { series: (b, x, y) => pow(b, x, y) },
} as const satisfies Readonly<Record<string, { readonly series: Legal }>>;
