import { compute } from './compute.ts';
import { KINDS } from './kinds.ts';
import {
  irType,
  mostVarying,
  PIXEL_INPUTS,
  scalarOf,
  sourceName,
  widthOf,
  type ImageSlot,
  type Frequency,
  type IrFunction,
  type IrType,
  type Kind,
  type Node,
  type Payloads,
  type PixelInput,
  type PeriodFact,
  type Scalar,
  type UniformSource,
} from './node.ts';
import { simplified } from './simplify.ts';

/** Anything an operation may hand to the builder as an operand. */
export type Operand = Node | number;

/** Most nodes a program may grow to. */
export const NODE_LIMIT = 10_000;

/**
 * Makes nodes, once each: asking twice for the same node gives the same object, constants are
 * folded in float64, and identities (x * 1, swizzles of vecs ...) are seen through.
 */
export class Builder {
  readonly #nodes = new Map<string, Node>();
  readonly #functions = new Map<string, IrFunction>();
  /** True once the limit is reached; from then on every node is a zero of its type. */
  full = false;

  constructor(readonly options: { readonly simplify: boolean } = { simplify: true }) {}

  get size(): number {
    return this.#nodes.size;
  }

  /** The node of this kind, type, operands and payload; made if it is new. */
  node<K extends Kind>(kind: K, type: IrType, args: readonly Node[], payload: Payloads[K]): Node {
    if (this.options.simplify) {
      const simpler = simplified(this, kind, type, args, payload);
      if (simpler) return simpler;
    }
    const key = `${kind}|${type}|${args.map((a) => a.id).join()}|${payloadKey(payload)}`;
    const known = this.#nodes.get(key);
    if (known) return known;
    if (this.#nodes.size >= NODE_LIMIT && kind !== 'constant') {
      this.full = true;
      return this.zero(type);
    }
    const frequency = LEAVES[kind] ?? args.reduce<Frequency>((f, a) => mostVarying(f, a.frequency), 'constant');
    const made = { id: this.#nodes.size, kind, type, args, payload, frequency } as unknown as Node;
    this.#nodes.set(key, made);
    return made;
  }

  constant(type: IrType, values: readonly number[]): Node {
    return this.node('constant', type, [], values);
  }

  zero(type: IrType): Node {
    return this.constant(
      type,
      Array.from({ length: widthOf(type) }, () => 0),
    );
  }

  number(value: number): Node {
    return this.constant('f1', [value]);
  }

  of(operand: Operand, like: Scalar = 'f'): Node {
    return typeof operand === 'number' ? this.constant(irType(like, 1), [operand]) : operand;
  }

  input(name: PixelInput): Node {
    return this.node('input', PIXEL_INPUTS[name], [], name);
  }

  uniform(source: UniformSource, type: IrType = 'f1'): Node {
    return this.node('uniform', type, [], source);
  }

  /** A componentwise node; numbers become constants of the other operands' scalar kind. */
  map(kind: ComponentKind, ...operands: readonly Operand[]): Node {
    const like = operands.find((o): o is Node => typeof o !== 'number');
    const scalar = like ? scalarOf(like.type) : 'f';
    const args = operands.map((o) => this.of(o, scalar));
    const width = Math.max(...args.map((a) => widthOf(a.type)));
    const result = kind === 'lt' || kind === 'le' || kind === 'eq' ? 'b' : scalar;
    return this.node(kind, irType(result, width), args, undefined);
  }

  neg(a: Operand): Node {
    return this.map('neg', a);
  }
  abs(a: Operand): Node {
    return this.map('abs', a);
  }
  floor(a: Operand): Node {
    return this.map('floor', a);
  }
  ceil(a: Operand): Node {
    return this.map('ceil', a);
  }
  fract(a: Operand): Node {
    return this.map('fract', a);
  }
  sign(a: Operand): Node {
    return this.map('sign', a);
  }
  sqrt(a: Operand): Node {
    return this.map('sqrt', a);
  }
  exp(a: Operand): Node {
    return this.map('exp', a);
  }
  log(a: Operand): Node {
    return this.map('log', a);
  }
  sin(a: Operand): Node {
    return this.map('sin', a);
  }
  cos(a: Operand): Node {
    return this.map('cos', a);
  }
  not(a: Operand): Node {
    return this.map('not', a);
  }
  add(a: Operand, b: Operand): Node {
    return this.map('add', a, b);
  }
  sub(a: Operand, b: Operand): Node {
    return this.map('sub', a, b);
  }
  mul(a: Operand, b: Operand): Node {
    return this.map('mul', a, b);
  }
  div(a: Operand, b: Operand): Node {
    return this.map('div', a, b);
  }
  mod(a: Operand, b: Operand): Node {
    return this.map('mod', a, b);
  }
  /** A `mod` of numbers with what is known of its period: see `PeriodFact`; n is its third operand. */
  modKnown(a: Node, period: Node, n: Node, fact: PeriodFact): Node {
    return this.node('mod', a.type, [a, period, n], fact);
  }
  min(a: Operand, b: Operand): Node {
    return this.map('min', a, b);
  }
  max(a: Operand, b: Operand): Node {
    return this.map('max', a, b);
  }
  pow(a: Operand, b: Operand): Node {
    return this.map('pow', a, b);
  }
  atan2(y: Operand, x: Operand): Node {
    return this.map('atan2', y, x);
  }
  and(a: Operand, b: Operand): Node {
    return this.map('and', a, b);
  }
  or(a: Operand, b: Operand): Node {
    return this.map('or', a, b);
  }
  xor(a: Operand, b: Operand): Node {
    return this.map('xor', a, b);
  }
  /** Bits moved up by `count`, 0..31. */
  shl(a: Node, count: number): Node {
    return this.node('shl', a.type, [a], count & 31);
  }
  /** Bits moved down by `count`, 0..31; signed numbers keep their sign. */
  shr(a: Node, count: number): Node {
    return this.node('shr', a.type, [a], count & 31);
  }
  lt(a: Operand, b: Operand): Node {
    return this.map('lt', a, b);
  }
  le(a: Operand, b: Operand): Node {
    return this.map('le', a, b);
  }
  eq(a: Operand, b: Operand): Node {
    return this.map('eq', a, b);
  }
  mix(from: Operand, to: Operand, weight: Operand): Node {
    return this.map('mix', from, to, weight);
  }
  clamp(value: Operand, low: Operand, high: Operand): Node {
    return this.map('clamp', value, low, high);
  }

  select(condition: Node, then: Operand, otherwise: Operand): Node {
    const like = [then, otherwise].find((o): o is Node => typeof o !== 'number');
    const scalar = like ? scalarOf(like.type) : 'f';
    const args = [condition, this.of(then, scalar), this.of(otherwise, scalar)];
    return this.node('select', irType(scalar, Math.max(...args.map((a) => widthOf(a.type)))), args, undefined);
  }

  dot(a: Node, b: Node): Node {
    return this.node('dot', 'f1', [a, b], undefined);
  }

  /** sqrt(dot(a, a)). */
  length(a: Node): Node {
    return widthOf(a.type) === 1 ? this.abs(a) : this.sqrt(this.dot(a, a));
  }

  vec(...parts: readonly Operand[]): Node {
    const like = parts.find((o): o is Node => typeof o !== 'number');
    const scalar = like ? scalarOf(like.type) : 'f';
    const args = parts.map((p) => this.of(p, scalar));
    return this.node(
      'vec',
      irType(
        scalar,
        args.reduce((n, a) => n + widthOf(a.type), 0),
      ),
      args,
      undefined,
    );
  }

  swizzle(of: Node, ...indices: readonly number[]): Node {
    return this.node('swizzle', irType(scalarOf(of.type), indices.length), [of], indices);
  }

  x(of: Node): Node {
    return this.swizzle(of, 0);
  }
  y(of: Node): Node {
    return this.swizzle(of, 1);
  }
  z(of: Node): Node {
    return this.swizzle(of, 2);
  }
  w(of: Node): Node {
    return this.swizzle(of, 3);
  }

  convert(to: Payloads['convert'], of: Node): Node {
    return scalarOf(of.type) === to ? of : this.node('convert', irType(to, widthOf(of.type)), [of], to);
  }

  bitcast(to: Scalar, of: Node): Node {
    return this.node('bitcast', irType(to, widthOf(of.type)), [of], to);
  }

  /** 1 where the condition holds, else 0. */
  truth(condition: Node): Node {
    return this.select(condition, 1, 0);
  }

  /** The same value in every component. */
  splat(of: Node, width: number): Node {
    return widthOf(of.type) === width ? of : this.vec(...Array.from({ length: width }, () => of));
  }

  sample(slot: ImageSlot, at: Node): Node {
    return this.node('sample', 'f4', [at], slot);
  }

  /**
   * Defines a shared function once a program and calls it. `seed` is the index of the parameter that takes a seed, for
   * functions that make noise.
   */
  call(
    name: string,
    about: string,
    parameters: readonly (readonly [name: string, value: Node])[],
    body: (builder: Builder, ...parameters: Node[]) => Node,
    seed?: number,
  ): Node {
    const args = parameters.map(([, value]) => value);
    const key = `${name}(${args.map((a) => a.type).join()})`;
    let fn = this.#functions.get(key);
    if (!fn) {
      const inner = args.map((a, i) => this.node('parameter', a.type, [], i));
      fn = {
        name,
        about,
        parameters: parameters.map(([n, v]) => ({ name: n, type: v.type })),
        ...(seed === undefined ? {} : { seed }),
        result: body(this, ...inner),
      };
      this.#functions.set(key, fn);
    }
    return this.node('call', fn.result.type, args, fn);
  }

  /** Value of a node all of whose operands are constants, in float64. */
  fold<K extends Kind>(kind: K, type: IrType, args: readonly Node[], payload: Payloads[K]): Node | undefined {
    if (KINDS[kind].definition === 'given') return undefined;
    if (!args.every((a) => a.kind === 'constant')) return undefined;
    return this.constant(
      type,
      compute(
        { kind, type, args, payload } as unknown as Node,
        args.map((a) => a.payload),
        Number,
      ),
    );
  }
}

/** What changes by itself, rather than with its operands. */
const LEAVES: Partial<Record<Kind, Frequency>> = {
  uniform: 'frame',
  input: 'pixel',
  sample: 'pixel',
  parameter: 'pixel',
};

/** Kinds whose result has the widest operand's width and, comparisons aside, its scalar kind. */
export type ComponentKind = Exclude<
  Kind,
  | 'constant'
  | 'input'
  | 'uniform'
  | 'parameter'
  | 'shl'
  | 'shr'
  | 'select'
  | 'dot'
  | 'vec'
  | 'swizzle'
  | 'convert'
  | 'bitcast'
  | 'derivative'
  | 'sample'
  | 'call'
>;

/** Tells payloads apart: equal ones give equal keys. */
function payloadKey(payload: Payloads[Kind]): string {
  if (payload === undefined) return '';
  if (typeof payload !== 'object' || Array.isArray(payload)) return String(payload); // -0 and 0 are alike to every back end.
  const named = payload as ImageSlot | IrFunction | Exclude<UniformSource, string> | PeriodFact;
  if ('dial' in named) return sourceName(named);
  if ('times' in named) return `times ${String(named.times)}`;
  return 'parameters' in named ? `${named.name}/${named.parameters.map((p) => p.type).join('')}` : named.name;
}
