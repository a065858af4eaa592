import { scalarOf, widthOf, type Kind, type Node, type Scalar } from './node.ts';

/** A value: one number a component; booleans are 0 and 1. */
export type Value = readonly number[];
/** `Math.fround` where floats are 32 bits wide, the identity where they are 64. */
export type Round = (value: number) => number;

type Componentwise = (a?: number, b?: number, c?: number) => number;

/** NaN and infinity, which no input may lead to, count as 0. */
const finite = (value: number): number => (Number.isFinite(value) ? value : 0);

/** Largest float below 1: `fract` of a tiny negative number would otherwise round up to 1. */
const BELOW_ONE = 1 - 2 ** -24;

const fract = (a: number): number => Math.min(a - Math.floor(a), BELOW_ONE);

/** What each componentwise kind does to one component; the definition every back end is held to. */
const FLOAT: Partial<Record<Kind, Componentwise>> = {
  neg: (a = 0) => -a,
  abs: (a = 0) => Math.abs(a),
  floor: (a = 0) => Math.floor(a),
  ceil: (a = 0) => Math.ceil(a),
  fract: (a = 0) => fract(a),
  sign: (a = 0) => (a > 0 ? 1 : a < 0 ? -1 : 0),
  sqrt: (a = 0) => (a > 0 ? Math.sqrt(a) : 0),
  exp: (a = 0) => Math.exp(Math.min(a, 88)),
  log: (a = 0) => (a > 0 ? Math.log(a) : 0),
  sin: (a = 0) => Math.sin(a),
  cos: (a = 0) => Math.cos(a),
  add: (a = 0, b = 0) => a + b,
  sub: (a = 0, b = 0) => a - b,
  mul: (a = 0, b = 0) => a * b,
  div: (a = 0, b = 0) => (b === 0 ? 0 : a / b),
  min: (a = 0, b = 0) => Math.min(a, b),
  max: (a = 0, b = 0) => Math.max(a, b),
  pow: (a = 0, b = 0) => (a > 0 ? a ** b : a === 0 && b === 0 ? 1 : 0),
  atan2: (a = 0, b = 0) => (a === 0 && b === 0 ? 0 : Math.atan2(a, b)),
  clamp: (a = 0, low = 0, high = 0) => Math.min(Math.max(a, low), high),
};

/** Kinds that round within: each step as 32-bit code would. */
const STEPWISE: Partial<Record<Kind, (round: Round) => Componentwise>> = {
  mix:
    (round) =>
    (a = 0, b = 0, t = 0) =>
      a + round(round(b - a) * t),
  mod:
    (round) =>
    (a = 0, b = 0) =>
      b === 0 ? 0 : a - round(b * Math.floor(round(a / b))),
};

const INTEGER: Partial<Record<Kind, Componentwise>> = {
  neg: (a = 0) => -a,
  abs: (a = 0) => Math.abs(a),
  add: (a = 0, b = 0) => a + b,
  sub: (a = 0, b = 0) => a - b,
  mul: (a = 0, b = 0) => Math.imul(a, b),
  min: (a = 0, b = 0) => Math.min(a, b),
  max: (a = 0, b = 0) => Math.max(a, b),
  clamp: (a = 0, low = 0, high = 0) => Math.min(Math.max(a, low), high),
  and: (a = 0, b = 0) => a & b,
  or: (a = 0, b = 0) => a | b,
  xor: (a = 0, b = 0) => a ^ b,
  shl: (a = 0, b = 0) => a << (b & 31),
};

const COMPARE: Partial<Record<Kind, Componentwise>> = {
  lt: (a = 0, b = 0) => (a < b ? 1 : 0),
  le: (a = 0, b = 0) => (a <= b ? 1 : 0),
  eq: (a = 0, b = 0) => (a === b ? 1 : 0),
  and: (a = 0, b = 0) => a & b,
  or: (a = 0, b = 0) => a | b,
  xor: (a = 0, b = 0) => a ^ b,
  not: (a = 0) => 1 - a,
};

const TABLES: Record<Scalar, Partial<Record<Kind, Componentwise>>> = { f: FLOAT, i: INTEGER, u: INTEGER, b: COMPARE };

const definition = (scalar: Scalar, kind: Kind, round: Round): Componentwise | undefined =>
  (scalar === 'f' ? STEPWISE[kind]?.(round) : undefined) ?? TABLES[scalar][kind];

/** A result as its scalar kind holds it. */
const settled = (scalar: Scalar, value: number, round: Round): number =>
  scalar === 'f' ? finite(round(value)) : scalar === 'i' ? value | 0 : scalar === 'u' ? value >>> 0 : value;

/** The value of a node that is no leaf, read or call, from its operands' values. */
export function compute(node: Node, args: readonly Value[], round: Round): Value {
  const width = widthOf(node.type);
  const scalar = scalarOf(node.type);
  if (width === 1) {
    const f = definition(scalar, node.kind, round);
    if (f) return [settled(scalar, f(args[0]?.[0], args[1]?.[0], args[2]?.[0]), round)];
  }
  const at = (value: Value | undefined, i: number): number => value?.[value.length === 1 ? 0 : i] ?? 0;
  const each = (f: (i: number) => number): Value => Array.from({ length: width }, (_, i) => f(i));
  switch (node.kind) {
    case 'select':
      return each((i) => (at(args[0], i) !== 0 ? at(args[1], i) : at(args[2], i)));
    case 'vec':
      return args.flat();
    case 'pick':
      return node.payload.map((i) => args[0]?.[i] ?? 0);
    case 'dot': {
      const terms = (args[0] ?? []).map((a, i) => round(a * at(args[1], i)));
      return [terms.reduce((sum, t) => round(sum + t))];
    }
    case 'convert':
      return each((i) => converted(at(args[0], i), node.payload, scalarOf(node.args[0]!.type), round));
    case 'slope':
      return each(() => 0);
    case 'bits':
      return each((i) => reinterpreted(at(args[0], i), node.payload, scalarOf(node.args[0]!.type)));
    case 'shr':
      return each((i) => (scalar === 'u' ? at(args[0], i) >>> (at(args[1], i) & 31) : at(args[0], i) >> (at(args[1], i) & 31)));
    default: {
      const f = definition(scalar, node.kind, round);
      if (!f) throw new Error(`the reference cannot compute ${node.kind} of ${node.type}`);
      return each((i) => settled(scalar, f(at(args[0], i), at(args[1], i), at(args[2], i)), round));
    }
  }
}

function converted(value: number, to: 'f' | 'i' | 'u' | 'b', from: 'f' | 'i' | 'u' | 'b', round: Round): number {
  if (to === 'f') return round(value);
  if (from === 'f') {
    const whole = Math.min(Math.max(Math.trunc(value), -2147483648), to === 'u' ? 4294967295 : 2147483647);
    return to === 'u' ? Math.max(whole, 0) : whole;
  }
  return to === 'u' ? value >>> 0 : value | 0;
}

const view = new DataView(new ArrayBuffer(4));

function reinterpreted(value: number, to: Scalar, from: Scalar): number {
  if (from === 'f') view.setFloat32(0, value);
  else view.setInt32(0, value | 0);
  return to === 'f' ? finite(view.getFloat32(0)) : to === 'u' ? view.getUint32(0) : view.getInt32(0);
}
