import type { Dial } from '../check/program.ts';
import { inOrder, type Kind, type Node } from '../ir/node.ts';
import type { Setting } from './shifts.ts';

/** 1 where a value is above 0 at every pixel, moment and setting, -1 where it is below; undefined where neither is known. */
export type Sign = 1 | -1 | undefined;

const both = (a: Sign, b: Sign): Sign => (a === b ? a : undefined);
const times = (a: Sign, b: Sign): Sign => (a && b ? ((a * b) as Sign) : undefined);
const unknown = (): Sign => undefined;

type Rule = (args: readonly [Sign, Sign, Sign]) => Sign;

/**
 * How each kind passes signs on, of single components. A claim is about exact numbers: what is only too small for a float
 * is not 0. `exp` and `pow` are 0 from somewhere on by their definitions.
 */
const RULES: Readonly<Record<Kind, Rule>> = {
  // Told by `Signs` itself.
  constant: unknown,
  uniform: unknown,
  input: unknown,
  parameter: unknown,
  sample: unknown,
  call: unknown,
  neg: ([x]) => times(x, -1),
  abs: ([x]) => (x ? 1 : undefined),
  floor: ([x]) => (x === -1 ? -1 : undefined),
  ceil: ([x]) => (x === 1 ? 1 : undefined),
  fract: unknown,
  sign: ([x]) => x,
  sqrt: ([x]) => (x === 1 ? 1 : undefined),
  exp: unknown,
  log: unknown,
  sin: unknown,
  cos: unknown,
  not: unknown,
  add: ([x, y]) => both(x, y),
  sub: ([x, y]) => both(x, times(y, -1)),
  mul: ([x, y]) => times(x, y),
  div: ([x, y]) => times(x, y),
  mod: unknown,
  min: ([x, y]) => (x === -1 || y === -1 ? -1 : both(x, y)),
  max: ([x, y]) => (x === 1 || y === 1 ? 1 : both(x, y)),
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
  select: ([, x, y]) => both(x, y),
  mix: unknown,
  clamp: ([x, low, high]) => (low === 1 ? 1 : high === -1 ? -1 : both(x, both(low, high))),
  dot: unknown,
  vec: unknown,
  swizzle: unknown,
  convert: unknown,
  bitcast: unknown,
  derivative: unknown,
};

/** Tells of values that they are never 0: above it, or below it. */
export class Signs {
  readonly #known = new Map<Node, Sign>();
  readonly #looked = new Set<Node>();
  readonly #dials: ReadonlyMap<string, Dial>;

  constructor(
    dials: readonly Dial[],
    readonly setting: Setting,
  ) {
    this.#dials = new Map(dials.map((d) => [d.name, d]));
  }

  of(node: Node): Sign {
    for (const n of inOrder([node], this.#looked)) this.#known.set(n, this.#sign(n));
    return this.#known.get(node);
  }

  #sign(node: Node): Sign {
    if (!node.type.endsWith('1')) return undefined;
    if (node.kind === 'constant') return signOf(node.payload[0] ?? 0);
    if (node.kind === 'uniform') return node.payload === 'time' ? undefined : this.#ofDial(node.payload.dial);
    return RULES[node.kind](node.args.map((a) => this.#known.get(a)) as [Sign, Sign, Sign]);
  }

  /** Of a dial as it is set; else by its range, in which all its settings lie. */
  #ofDial(name: string): Sign {
    const given = this.setting.get(name);
    if (given) return given.length === 1 ? signOf(given[0] ?? 0) : undefined;
    const { low, high } = this.#dials.get(name) ?? {};
    return low !== undefined && low > 0 ? 1 : high !== undefined && high < 0 ? -1 : undefined;
  }
}

const signOf = (value: number): Sign => (value > 0 ? 1 : value < 0 ? -1 : undefined);
