import { widthOf, type Kind, type Node } from '../ir/node.ts';
import { isZero, negated, product, sum, whole, ZERO, type Exact } from './exact.ts';
import type { Change } from './shifts.ts';

/** Under a shift a value returns, becomes its opposite, or neither is known. */
export type Parity = 'returns' | 'negates' | undefined;

type Rule = (args: readonly [Parity, Parity, Parity]) => Parity;

const unknown: Rule = () => undefined;
/** f(-x) = -f(x). */
const odd: Rule = ([x]) => x;
/** f(-x) = f(x). */
const even: Rule = ([x]) => x && 'returns';
/** A product: of two opposites, the same. */
const timesRule: Rule = ([x, y]) => x && y && (x === y ? 'returns' : 'negates');
/** Linear in operands that go alike. */
const alike = (x: Parity, y: Parity): Parity => (x === y ? x : undefined);

/** How each kind passes on that its operands negate, component by component. */
export const PARITIES: Readonly<Record<Kind, Rule>> = {
  // Told by `Shifts` itself.
  constant: unknown,
  input: unknown,
  uniform: unknown,
  parameter: unknown,
  vec: unknown,
  swizzle: unknown,
  derivative: unknown,
  sample: unknown,
  call: unknown,
  neg: odd,
  abs: even,
  floor: unknown,
  ceil: unknown,
  fract: unknown,
  sign: odd,
  sqrt: unknown,
  exp: unknown,
  log: unknown,
  sin: odd,
  cos: even,
  not: unknown,
  add: ([x, y]) => alike(x, y),
  sub: ([x, y]) => alike(x, y),
  mul: timesRule,
  div: timesRule,
  mod: unknown,
  min: unknown,
  max: unknown,
  pow: unknown,
  atan2: unknown,
  and: unknown,
  or: unknown,
  xor: unknown,
  shl: unknown,
  shr: unknown,
  lt: unknown,
  le: unknown,
  eq: unknown,
  select: ([condition, x, y]) => (condition === 'returns' ? alike(x, y) : undefined),
  mix: ([x, y, t]) => (t === 'returns' ? alike(x, y) : undefined),
  clamp: unknown,
  dot: unknown,
  convert: unknown,
  bitcast: unknown,
};

const TWO = whole(2);
const twice = (x: Exact): Exact | undefined => product(x, TWO);

/** What a value v becomes: c - v for the c told, itself, or nothing that is known. */
export type Mirror = Exact | 'returns' | undefined;
export const mirrorOf = (parity: Parity): Mirror => (parity === 'negates' ? ZERO : parity);

/** Values that a shift mirrors: v becomes c - v, c being 0 where it becomes its opposite. */
export class Reflections {
  readonly #about = new Map<Node, readonly (Exact | undefined)[]>();

  /** `exactly`: what an operand's component that the shift leaves alone is worth. */
  constructor(readonly exactly: (node: Node, index: number, i: number) => Exact) {}

  /** The c of a component, where it is mirrored. */
  of(node: Node, i: number): Exact | undefined {
    return this.#about.get(node)?.[widthOf(node.type) === 1 ? 0 : i];
  }

  keep(node: Node, mirrors: readonly Mirror[]): void {
    const about = mirrors.map((m) => (m === 'returns' ? undefined : m));
    if (about.some((c) => c !== undefined)) this.#about.set(node, about);
  }

  parities(node: Node, args: readonly Change[], i: number): readonly [Parity, Parity, Parity] {
    return node.args.map((arg, a): Parity => {
      const known = args[a]?.[widthOf(arg.type) === 1 ? 0 : i];
      if (known && isZero(known)) return 'returns';
      const about = this.of(arg, i);
      return about && isZero(about) ? 'negates' : undefined;
    }) as unknown as readonly [Parity, Parity, Parity];
  }

  /** What a component becomes, by what its operands become. */
  made(node: Node, args: readonly Change[], i: number): Mirror {
    const parities = this.parities(node, args, i);
    const parity = PARITIES[node.kind](parities);
    if (parity) return mirrorOf(parity);
    const mirrored = (index: number): Exact | undefined => {
      const arg = node.args[index];
      return arg && this.of(arg, i);
    };
    const returning = (index: number): Exact | undefined =>
      parities[index] === 'returns' ? this.exactly(node, index, i) : undefined;
    const [x, y] = [mirrored(0), mirrored(1)];
    // What returns, v = e, is mirrored about twice itself.
    const [a, b] = [0, 1].map((index) => {
      const e = returning(index);
      return e && twice(e);
    });
    switch (node.kind) {
      case 'neg':
        return x && negated(x);
      case 'add':
      case 'sub': {
        const [left, right] = [x ?? a, y ?? b];
        return (x ?? y) && left && right && sum(left, node.kind === 'add' ? right : negated(right));
      }
      case 'mul': {
        const [c, e] = x ? [x, returning(1)] : [y, returning(0)];
        return c && e && product(c, e);
      }
      default:
        return undefined;
    }
  }
}
