import { scalarOf, widthOf, type Kind, type Node, type NodeKind, type Scalar } from './node.ts';

/** A value: one number a component; booleans are 0 and 1. */
export type Value = readonly number[];
/** `Math.fround` where floats are 32 bits wide, the identity where they are 64. */
export type Round = (value: number) => number;

type Componentwise = (a?: number, b?: number, c?: number) => number;

/** NaN and infinity, which no input may lead to, count as 0. */
const finite = (value: number): number => (Number.isFinite(value) ? value : 0);

/** Largest float below 1: `fract` of a tiny negative number would otherwise round up to 1. */
const BELOW_ONE = 1 - 2 ** -24;

/** What a kind does to one component of each scalar kind that it takes: floats, whole numbers of 32 bits, truth. */
interface Components {
  readonly f?: (round: Round) => Componentwise;
  readonly i?: Componentwise;
  readonly b?: Componentwise;
}
/** What a kind does to whole values. */
type Whole<K extends Kind> = (node: NodeKind<K>, args: readonly Value[], round: Round) => Value;
/** Its value comes from around the graph, or from a back end of its own: leaves, reads and calls. */
type Given = 'given';

const floats = (f: Componentwise): Components => ({ f: () => f });
const numbers = (f: Componentwise, i = f): Components => ({ f: () => f, i });
/** Rounds within: each step as 32-bit code would. */
const stepwise = (f: (round: Round) => Componentwise): Components => ({ f });
const bitwise = (i: Componentwise): Components => ({ i, b: i });
const compares = (b: Componentwise): Components => ({ b });

const at = (value: Value | undefined, i: number): number => value?.[value.length === 1 ? 0 : i] ?? 0;
const each = (node: Node, f: (i: number) => number): Value =>
  Array.from({ length: widthOf(node.type) }, (_, i) => f(i));

/** What each kind computes; the definition every back end is held to. */
const DEFINITIONS: { readonly [K in Kind]: Components | Whole<K> | Given } = {
  constant: 'given',
  input: 'given',
  frame: 'given',
  parameter: 'given',
  read: 'given',
  call: 'given',
  neg: numbers((a = 0) => -a),
  abs: numbers((a = 0) => Math.abs(a)),
  floor: floats((a = 0) => Math.floor(a)),
  ceil: floats((a = 0) => Math.ceil(a)),
  fract: floats((a = 0) => Math.min(a - Math.floor(a), BELOW_ONE)),
  sign: floats((a = 0) => (a > 0 ? 1 : a < 0 ? -1 : 0)),
  sqrt: floats((a = 0) => (a > 0 ? Math.sqrt(a) : 0)),
  exp: floats((a = 0) => Math.exp(Math.min(a, 88))),
  log: floats((a = 0) => (a > 0 ? Math.log(a) : 0)),
  sin: floats((a = 0) => Math.sin(a)),
  cos: floats((a = 0) => Math.cos(a)),
  not: { b: (a = 0) => 1 - a },
  add: numbers((a = 0, b = 0) => a + b),
  sub: numbers((a = 0, b = 0) => a - b),
  mul: numbers(
    (a = 0, b = 0) => a * b,
    (a = 0, b = 0) => Math.imul(a, b),
  ),
  div: floats((a = 0, b = 0) => (b === 0 ? 0 : a / b)),
  mod: stepwise(
    (round) =>
      (a = 0, b = 0) =>
        b === 0 ? 0 : a - round(b * Math.floor(round(a / b))),
  ),
  min: numbers((a = 0, b = 0) => Math.min(a, b)),
  max: numbers((a = 0, b = 0) => Math.max(a, b)),
  pow: floats((a = 0, b = 0) => (a > 0 ? a ** b : a === 0 && b === 0 ? 1 : 0)),
  atan2: floats((a = 0, b = 0) => (a === 0 && b === 0 ? 0 : Math.atan2(a, b))),
  and: bitwise((a = 0, b = 0) => a & b),
  or: bitwise((a = 0, b = 0) => a | b),
  xor: bitwise((a = 0, b = 0) => a ^ b),
  shl: { i: (a = 0, b = 0) => a << (b & 31) },
  shr: (node, [a, b]) =>
    each(node, (i) => (scalarOf(node.type) === 'u' ? at(a, i) >>> (at(b, i) & 31) : at(a, i) >> (at(b, i) & 31))),
  lt: compares((a = 0, b = 0) => (a < b ? 1 : 0)),
  le: compares((a = 0, b = 0) => (a <= b ? 1 : 0)),
  eq: compares((a = 0, b = 0) => (a === b ? 1 : 0)),
  select: (node, [condition, then, otherwise]) =>
    each(node, (i) => (at(condition, i) !== 0 ? at(then, i) : at(otherwise, i))),
  mix: stepwise(
    (round) =>
      (a = 0, b = 0, t = 0) =>
        a + round(round(b - a) * t),
  ),
  clamp: numbers((a = 0, low = 0, high = 0) => Math.min(Math.max(a, low), high)),
  dot: (_, [a = [], b], round) => [a.map((x, i) => round(x * at(b, i))).reduce((sum, t) => round(sum + t))],
  vec: (_, args) => args.flat(),
  pick: (node, [of]) => node.payload.map((i) => of?.[i] ?? 0),
  convert: (node, [a], round) =>
    each(node, (i) => converted(at(a, i), node.payload, scalarOf(node.args[0]!.type), round)),
  bits: (node, [a]) => each(node, (i) => reinterpreted(at(a, i), node.payload, scalarOf(node.args[0]!.type))),
  slope: (node) => each(node, () => 0),
};

/** A result as its scalar kind holds it. */
const settled = (scalar: Scalar, value: number, round: Round): number =>
  scalar === 'f' ? finite(round(value)) : scalar === 'i' ? value | 0 : scalar === 'u' ? value >>> 0 : value;

/** The value of a node that is no leaf, read or call, from its operands' values. */
export function compute(node: Node, args: readonly Value[], round: Round): Value {
  const scalar = scalarOf(node.type);
  const definition = DEFINITIONS[node.kind];
  if (typeof definition === 'function') return (definition as Whole<Kind>)(node, args, round);
  const f =
    definition === 'given'
      ? undefined
      : scalar === 'f'
        ? definition.f?.(round)
        : scalar === 'b'
          ? definition.b
          : definition.i;
  if (!f) throw new Error(`the reference cannot compute ${node.kind} of ${node.type}`);
  if (node.type.endsWith('1')) return [settled(scalar, f(args[0]?.[0], args[1]?.[0], args[2]?.[0]), round)];
  return each(node, (i) => settled(scalar, f(at(args[0], i), at(args[1], i), at(args[2], i)), round));
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
