import type { Builder } from './builder.ts';
import { irType, scalarOf, widthOf, inOrder, type Kind, type Node, type NodeKind, type Scalar } from './node.ts';

/** A value: one number a component; booleans are 0 and 1. */
export type Value = readonly number[];
/** `Math.fround` where floats are 32 bits wide, the identity where they are 64. */
export type Round = (value: number) => number;

export type Componentwise = (a?: number, b?: number, c?: number) => number;

/** What a kind does to one component of each scalar kind that it takes: floats, whole numbers of 32 bits, truth. */
export interface Components {
  readonly f?: (round: Round) => Componentwise;
  readonly i?: Componentwise;
  readonly b?: Componentwise;
}
/** What a kind does to whole values. */
export type Whole<K extends Kind> = (node: NodeKind<K>, args: readonly Value[], round: Round) => Value;

/**
 * The derivative of a node from those of its operands, which `d` gives. `implicit`: the difference to the neighbouring
 * pixel, as a graphics card takes it, is as good.
 */
export type Derivative<K extends Kind> =
  'implicit' | ((b: Builder, node: NodeKind<K>, d: (operand: Node) => Node) => Node);

/** All that passes and back ends share of a kind of node; each back end writes it in a table of its own. */
export interface KindRecord<K extends Kind> {
  /** Scalar kinds of its operands, of a leaf that of its value. */
  readonly scalars: string;
  /** Operands it takes; -1 for any number. */
  readonly operands: number;
  /** Whether operands of width 1 may stand beside wider ones, and the result is as wide as the widest. */
  readonly componentwise: boolean;
  /** What it computes: every back end is held to it. `given`: its value comes from around the graph. */
  readonly definition: Components | Whole<K> | 'given';
  /** Whether it may jump from one pixel to the next though what it is made of does not. */
  readonly jumps?: true;
  readonly derivative: Derivative<K>;
  /** Arithmetic of one node. `free`: it moves values about, or stands for them. */
  readonly cost: 'free' | 'a component' | ((node: NodeKind<K>) => number);
}

/** Largest float below 1: `fract` of a tiny negative number would otherwise round up to 1. */
const BELOW_ONE = 1 - 2 ** -24;

/** Least 32-bit float with all its digits. */
const LEAST_NORMAL = 2 ** -126;
/**
 * Most radians that a pixel's sine takes: beyond, whole quarter turns are no longer exact in three parts (see
 * `transcendental.ts`). Values of the frame are float64 and take any.
 */
export const MOST_RADIANS = 65536;

/** What is not finite, as 0: at outputs, and for functions without a value there. */
export const finite = (value: number): number => (Number.isFinite(value) ? value : 0);

const floats = (f: Componentwise): Components => ({ f: () => f });
const numbers = (f: Componentwise, i = f): Components => ({ f: () => f, i });
/** Rounds within: each step as 32-bit code would. */
const stepwise = (f: (round: Round) => Componentwise): Components => ({ f });
const bitwise = (i: Componentwise): Components => ({ i, b: i });

/** Functions of an angle; a pixel's has a most. */
const angular = (f: (radians: number) => number): Components =>
  stepwise(
    (round) =>
      (a = 0) =>
        Number.isFinite(a) && (round === Number || Math.abs(a) <= MOST_RADIANS) ? f(a) : 0,
  );

/** ln x; 0 for x of 0 and below, and for what is not finite. */
const logarithm = (x: number): number => (x > 0 && Number.isFinite(x) ? Math.log(Math.max(x, LEAST_NORMAL)) : 0);

/** x^y up to e^88; 0 for x below 0, 1 for 0^0, 0 for what is not finite. */
function power(x: number, y: number): number {
  if (!Number.isFinite(x) || !Number.isFinite(y)) return 0;
  if (x > 0) return Math.exp(Math.min(y * logarithm(x), 88));
  return x === 0 && y === 0 ? 1 : 0;
}

/** A component of a value; a narrow value stands for all. */
export const componentOf = (value: Value | undefined, i: number): number => value?.[value.length === 1 ? 0 : i] ?? 0;
/** A value as wide as a node. */
export const eachComponent = (node: Node, f: (i: number) => number): Value =>
  Array.from({ length: widthOf(node.type) }, (_, i) => f(i));

/** The derivative of what does not move: zero as wide as a node. */
export const stillSlope = (b: Builder, node: Node): Node => b.zero(irType('f', widthOf(node.type)));

type Operands = readonly [Node, Node, Node];
/** The chain rule with the operands taken apart. */
const rule =
  <K extends Kind>(
    f: (b: Builder, args: Operands, d: (operand: Node) => Node, node: NodeKind<K>) => Node,
  ): Derivative<K> =>
  (b, node, d) =>
    f(b, node.args as unknown as Operands, d, node);

const leaf = { scalars: 'fiub', operands: 0, componentwise: false, definition: 'given', cost: 'free' } as const;
/** Componentwise, of one to three operands. */
const map = (scalars: string, operands: number) =>
  ({ scalars, operands, componentwise: true, cost: 'a component' }) as const;
const implicit = { derivative: 'implicit' } as const;
/** Constant between jumps. */
const stepped = { jumps: true, derivative: stillSlope } as const;
const compares = (b: Componentwise) => ({ ...map('fiu', 2), ...implicit, jumps: true, definition: { b } }) as const;

/** One record a kind. */
export const KINDS: { readonly [K in Kind]: KindRecord<K> } = {
  constant: { ...leaf, ...implicit },
  input: { ...leaf, scalars: 'f', ...implicit },
  uniform: { ...leaf, scalars: 'f', ...implicit },
  parameter: { ...leaf, ...implicit },
  neg: {
    ...map('fi', 1),
    definition: numbers((a = 0) => -a),
    derivative: rule((b, [x], d) => b.neg(d(x))),
  },
  abs: {
    ...map('fi', 1),
    definition: numbers((a = 0) => Math.abs(a)),
    derivative: rule((b, [x], d) => b.mul(b.sign(x), d(x))),
  },
  floor: { ...map('f', 1), ...stepped, definition: floats((a = 0) => Math.floor(a)) },
  ceil: { ...map('f', 1), ...stepped, definition: floats((a = 0) => Math.ceil(a)) },
  fract: {
    ...map('f', 1),
    // Of what is not finite, the greatest it can be: never less finite than that.
    definition: floats((a = 0) => {
      const part = a - Math.floor(a);
      return part < BELOW_ONE ? part : BELOW_ONE;
    }),
    jumps: true,
    // What comes from an image, such as a path map, may itself step back by whole periods.
    derivative: rule((b, [x], d) =>
      inOrder([x]).some((n) => n.kind === 'sample') ? b.sub(d(x), b.floor(b.add(d(x), 0.5))) : d(x),
    ),
  },
  sign: { ...map('f', 1), ...stepped, definition: floats((a = 0) => (a > 0 ? 1 : a < 0 ? -1 : 0)) },
  sqrt: {
    ...map('f', 1),
    definition: floats((a = 0) => Math.sqrt(a < 0 ? 0 : a)),
    derivative: rule((b, [x], d, node) => b.div(b.mul(d(x), 0.5), node)),
  },
  exp: {
    ...map('f', 1),
    definition: floats((a = 0) => (Number.isFinite(a) ? Math.exp(Math.min(a, 88)) : 0)),
    derivative: rule((b, [x], d, node) => b.mul(node, d(x))),
  },
  log: {
    ...map('f', 1),
    definition: floats((a = 0) => logarithm(a)),
    derivative: rule((b, [x], d) => b.div(d(x), b.max(x, 0))),
  },
  sin: {
    ...map('f', 1),
    definition: angular(Math.sin),
    derivative: rule((b, [x], d) => b.mul(b.cos(x), d(x))),
  },
  cos: {
    ...map('f', 1),
    definition: angular(Math.cos),
    derivative: rule((b, [x], d) => b.neg(b.mul(b.sin(x), d(x)))),
  },
  not: { ...map('b', 1), ...implicit, definition: { b: (a = 0) => 1 - a } },
  add: {
    ...map('fiu', 2),
    definition: numbers((a = 0, b = 0) => a + b),
    derivative: rule((b, [x, y], d) => b.add(d(x), d(y))),
  },
  sub: {
    ...map('fiu', 2),
    definition: numbers((a = 0, b = 0) => a - b),
    derivative: rule((b, [x, y], d) => b.sub(d(x), d(y))),
  },
  mul: {
    ...map('fiu', 2),
    definition: numbers(
      (a = 0, b = 0) => a * b,
      (a = 0, b = 0) => Math.imul(a, b),
    ),
    derivative: rule((b, [x, y], d) => b.add(b.mul(d(x), y), b.mul(x, d(y)))),
  },
  div: {
    ...map('f', 2),
    definition: floats((a = 0, b = 0) => (b === 0 ? 0 : a / b)),
    derivative: rule((b, [x, y], d, node) => b.div(b.sub(d(x), b.mul(node, d(y))), y)),
  },
  mod: {
    ...map('f', 2),
    definition: stepwise(
      (round) =>
        (a = 0, b = 0) =>
          b === 0 ? 0 : a - round(b * Math.floor(round(a / b))),
    ),
    jumps: true,
    derivative: rule((b, [x, y], d) => b.sub(d(x), b.mul(b.floor(b.div(x, y)), d(y)))),
  },
  min: {
    ...map('fiu', 2),
    definition: numbers((a = 0, b = 0) => (b < a ? b : a)),
    derivative: rule((b, [x, y], d) => b.select(b.le(x, y), d(x), d(y))),
  },
  max: {
    ...map('fiu', 2),
    definition: numbers((a = 0, b = 0) => (a < b ? b : a)),
    derivative: rule((b, [x, y], d) => b.select(b.le(y, x), d(x), d(y))),
  },
  pow: {
    ...map('f', 2),
    definition: floats((a = 0, b = 0) => power(a, b)),
    derivative: rule((b, [x, y], d, node) => b.mul(node, b.add(b.mul(d(y), b.log(x)), b.mul(y, b.div(d(x), x))))),
  },
  atan2: {
    ...map('f', 2),
    definition: stepwise(
      (round) =>
        (a = 0, b = 0) =>
          (a === 0 && b === 0) || !Number.isFinite(round(Math.abs(a) + Math.abs(b)))
            ? 0
            : Math.atan2(a === 0 ? 0 : a, b),
    ),
    jumps: true,
    derivative: rule((b, [x, y], d) => b.div(b.sub(b.mul(y, d(x)), b.mul(x, d(y))), b.add(b.mul(x, x), b.mul(y, y)))),
  },
  and: { ...map('iub', 2), ...implicit, definition: bitwise((a = 0, b = 0) => a & b) },
  or: { ...map('iub', 2), ...implicit, definition: bitwise((a = 0, b = 0) => a | b) },
  xor: { ...map('iub', 2), ...implicit, definition: bitwise((a = 0, b = 0) => a ^ b) },
  shl: {
    ...map('iu', 1),
    ...implicit,
    definition: (node, [a]) =>
      eachComponent(node, (i) => {
        const moved = componentOf(a, i) << node.payload;
        return scalarOf(node.type) === 'u' ? moved >>> 0 : moved;
      }),
  },
  shr: {
    ...map('iu', 1),
    ...implicit,
    definition: (node, [a]) =>
      eachComponent(node, (i) =>
        scalarOf(node.type) === 'u' ? componentOf(a, i) >>> node.payload : componentOf(a, i) >> node.payload,
      ),
  },
  lt: compares((a = 0, b = 0) => (a < b ? 1 : 0)),
  le: compares((a = 0, b = 0) => (a <= b ? 1 : 0)),
  eq: compares((a = 0, b = 0) => (a === b ? 1 : 0)),
  select: {
    ...map('fiub', 3),
    definition: (node, [condition, then, otherwise]) =>
      eachComponent(node, (i) => (componentOf(condition, i) !== 0 ? componentOf(then, i) : componentOf(otherwise, i))),
    jumps: true,
    derivative: rule((b, [x, y, z], d) => b.select(x, d(y), d(z))),
  },
  mix: {
    ...map('f', 3),
    definition: stepwise(
      (round) =>
        (a = 0, b = 0, t = 0) =>
          a + round(round(b - a) * t),
    ),
    derivative: rule((b, [x, y, z], d) => b.add(b.mix(d(x), d(y), z), b.mul(b.sub(y, x), d(z)))),
  },
  clamp: {
    ...map('fiu', 3),
    definition: numbers((a = 0, low = 0, high = 0) => {
      const above = a < low ? low : a;
      return high < above ? high : above;
    }),
    derivative: rule((b, [x, y, z], d) => b.select(b.lt(x, y), d(y), b.select(b.lt(z, x), d(z), d(x)))),
  },
  dot: {
    scalars: 'f',
    operands: 2,
    componentwise: false,
    // Products one after the other, each rounded, then their sum.
    definition: (_, [a = [], b], round) => [
      a.map((x, i) => round(x * componentOf(b, i))).reduce((sum, t) => round(sum + t)),
    ],
    derivative: rule((b, [x, y], d) => b.add(b.dot(d(x), y), b.dot(x, d(y)))),
    // As many products as components, and one sum less.
    cost: (node) => 2 * widthOf(node.args[0]!.type) - 1,
  },
  vec: {
    scalars: 'fiub',
    operands: -1,
    componentwise: false,
    definition: (_, args) => args.flat(),
    derivative: (b, node, d) => b.vec(...node.args.map(d)),
    cost: 'free',
  },
  swizzle: {
    scalars: 'fiub',
    operands: 1,
    componentwise: false,
    definition: (node, [of]) => node.payload.map((i) => of?.[i] ?? 0),
    derivative: (b, node, d) => b.swizzle(d(node.args[0]!), ...node.payload),
    cost: 'free',
  },
  convert: {
    scalars: 'fiub',
    operands: 1,
    componentwise: true,
    definition: (node, [a], round) =>
      eachComponent(node, (i) => converted(componentOf(a, i), node.payload, scalarOf(node.args[0]!.type), round)),
    ...stepped,
    cost: 'a component',
  },
  bitcast: {
    scalars: 'fiu',
    operands: 1,
    componentwise: true,
    definition: (node, [a]) =>
      eachComponent(node, (i) => reinterpreted(componentOf(a, i), node.payload, scalarOf(node.args[0]!.type))),
    ...stepped,
    cost: 'free',
  },
  derivative: {
    scalars: 'f',
    operands: 1,
    componentwise: true,
    definition: (node) => eachComponent(node, () => 0),
    ...implicit,
    cost: 'a component',
  },
  sample: { scalars: 'f', operands: 1, componentwise: false, definition: 'given', ...implicit, cost: 'free' },
  call: { scalars: 'fiub', operands: -1, componentwise: false, definition: 'given', ...implicit, cost: 'free' },
};

/** To another scalar kind: floats by truncation, held to what the kind can say; 0 of no number. */
function converted(value: number, to: Scalar, from: Scalar, round: Round): number {
  if (to === 'f') return round(value);
  if (from === 'f') {
    if (Number.isNaN(value)) return 0;
    const whole = Math.min(Math.max(Math.trunc(value), -2147483648), to === 'u' ? 4294967295 : 2147483647);
    return to === 'u' ? Math.max(whole, 0) : whole;
  }
  return to === 'u' ? value >>> 0 : value | 0;
}

const view = new DataView(new ArrayBuffer(4));

function reinterpreted(value: number, to: Scalar, from: Scalar): number {
  if (from === 'f') view.setFloat32(0, value);
  else view.setInt32(0, value | 0);
  return to === 'f' ? view.getFloat32(0) : to === 'u' ? view.getUint32(0) : view.getInt32(0);
}
