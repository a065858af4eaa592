import { TAU } from '../ops/shared.ts';
import { Fraction } from 'fraction.js';
import type { Node } from '../ir/node.ts';

/**
 * A term of a sum: an exact factor of what is multiplied: nodes by their order, and how often a whole turn's radians.
 */
interface Term {
  readonly factor: Fraction;
  readonly atoms: readonly Node[];
  /** Power of 2 pi, which no fraction is. */
  readonly turns: number;
}

/**
 * An exactly known value: a sum of products of fractions and of values that are what they are, such as a dial.
 * Two of them are equal where their terms are.
 */
export type Exact = ReadonlyMap<string, Term>;

/** Floats come through a few roundings of the last bit: a fraction this near is what was written. */
const MEANT = 1e-13;
/** More terms than this are no longer followed. */
const TERM_LIMIT = 24;
const DEGREE_LIMIT = 6;
/** Longer fractions than this, of numerator or denominator, are no longer followed: chains of turns double them. */
const SIZE_LIMIT = 2n ** 192n;

/**
 * The simplest fraction among the convergents of a float that lies within a few roundings of it; undefined for what is
 * not finite.
 */
export function fractionOf(value: number): Fraction | undefined {
  if (!Number.isFinite(value)) return undefined;
  if (Math.abs(value) < MEANT) return new Fraction(0);
  const sign = Math.sign(value);
  const wanted = Math.abs(value);
  let [p0, q0, p1, q1] = [0n, 1n, 1n, 0n];
  let rest = wanted;
  for (let i = 0; i < 64; i++) {
    const whole = Math.floor(rest);
    [p0, q0, p1, q1] = [p1, q1, BigInt(whole) * p1 + p0, BigInt(whole) * q1 + q0];
    const part = rest - whole;
    if (Math.abs(wanted - Number(p1) / Number(q1)) <= MEANT * Math.max(1, wanted) || part === 0) break;
    rest = 1 / part;
  }
  return new Fraction(sign < 0 ? -p1 : p1, q1);
}

export const ZERO: Exact = new Map();
const keyOf = (atoms: readonly Node[], turns: number): string => `${atoms.map((a) => a.id).join('*')}|${String(turns)}`;
const of = (factor: Fraction, atoms: readonly Node[] = [], turns = 0): Exact =>
  factor.n === 0n ? ZERO : new Map([[keyOf(atoms, turns), { factor, atoms, turns }]]);
const isTooLong = ({ n, d }: Fraction): boolean => n > SIZE_LIMIT || d > SIZE_LIMIT;

export const whole = (value: number): Exact => of(new Fraction(value));
export const atom = (node: Node): Exact => of(new Fraction(1), [node]);

const exacts = new Map<number, Exact | undefined>();

/** A float as a fraction, or as a fraction of a whole turn in radians where that is the simpler. */
export function exactOf(value: number): Exact | undefined {
  if (exacts.has(value)) return exacts.get(value);
  const plain = fractionOf(value);
  const turns = fractionOf(value / TAU);
  const exact = !plain || !turns ? undefined : plain.d > 1000n && turns.d <= 1000n ? of(turns, [], 1) : of(plain);
  if (exacts.size > 4096) exacts.clear();
  exacts.set(value, exact);
  return exact;
}

export const isZero = (x: Exact): boolean => x.size === 0;

/** Whether each term of it is small beside 1: what roundings leave of nothing. */
export const isNearZero = (x: Exact, near: number): boolean =>
  [...x.values()].every(({ factor }) => Math.abs(factor.valueOf()) <= near);

export function negated(x: Exact): Exact {
  return new Map([...x].map(([key, term]) => [key, { ...term, factor: term.factor.neg() }]));
}

/** Undefined where the sum, or a fraction in it, grows too long. */
export function sum(x: Exact, y: Exact): Exact | undefined {
  if (isZero(x)) return y;
  if (isZero(y)) return x;
  const result = new Map(x);
  for (const [key, term] of y) {
    const factor = result.get(key)?.factor.add(term.factor) ?? term.factor;
    if (isTooLong(factor)) return undefined;
    if (factor.n === 0n) result.delete(key);
    else result.set(key, { ...term, factor });
  }
  return result.size > TERM_LIMIT ? undefined : result;
}

export function product(x: Exact, y: Exact): Exact | undefined {
  let result: Exact | undefined = ZERO;
  for (const a of x.values())
    for (const b of y.values()) {
      const atoms = [...a.atoms, ...b.atoms].sort((m, n) => m.id - n.id);
      if (atoms.length > DEGREE_LIMIT || !result) return undefined;
      const factor = a.factor.mul(b.factor);
      if (isTooLong(factor)) return undefined;
      result = sum(result, of(factor, atoms, a.turns + b.turns));
    }
  return result;
}

/** x / y where y is one product and every term of x holds it. */
export function quotient(x: Exact, y: Exact): Exact | undefined {
  const [divisor] = y.values();
  if (!divisor || y.size > 1) return undefined;
  let result: Exact | undefined = ZERO;
  for (const { factor, atoms, turns } of x.values()) {
    const rest = [...atoms];
    for (const a of divisor.atoms) {
      const at = rest.indexOf(a);
      if (at < 0) return undefined;
      rest.splice(at, 1);
    }
    if (!result || turns < divisor.turns) return undefined;
    const share = factor.div(divisor.factor);
    if (isTooLong(share)) return undefined;
    result = sum(result, of(share, rest, turns - divisor.turns));
  }
  return result;
}

export const same = (x: Exact, y: Exact): boolean => {
  const difference = sum(x, negated(y));
  return difference !== undefined && isZero(difference);
};

/** Radians as whole turns, where each term has 2 pi once. */
export const inTurns = (x: Exact): Exact | undefined =>
  [...x.values()].every((t) => t.turns === 1)
    ? new Map([...x.values()].map((t) => [keyOf(t.atoms, 0), { ...t, turns: 0 }]))
    : undefined;

/** The value, where it is a plain fraction. */
export function fractionIn(x: Exact): Fraction | undefined {
  if (isZero(x)) return new Fraction(0);
  const [term] = x.values();
  return x.size === 1 && term?.atoms.length === 0 && term.turns === 0 ? term.factor : undefined;
}

/** Whether it is a whole number, whatever its atoms are, given which of them are whole. */
export const isWhole = (x: Exact, atomIsWhole: (atom: Node) => boolean): boolean =>
  [...x.values()].every(({ factor, atoms, turns }) => turns === 0 && factor.d === 1n && atoms.every(atomIsWhole));

/** A key that equal values share. */
export const printed = (x: Exact): string =>
  [...x].map(([key, { factor }]) => `${key}:${factor.toFraction()}`).join('+');
