import { irType, scalarOf, widthOf, type IrType, type Node, type NodeKind, type Scalar } from '../../ir/node.ts';
import type { Dialect } from './dialect.ts';
import { floatText, within, type Text } from './text.ts';

/** How a C-like shading language writes types, literals and what is made of parts. */
export interface Spelling {
  readonly typeName: (type: IrType) => string;
  /** A number or vector as another type of the same width; of a number also a vector of equal components. */
  readonly cast: (type: IrType, text: string) => string;
  /** A vector of parts: numbers and vectors side by side. */
  readonly vector: (type: IrType, parts: readonly string[]) => string;
}

export const atom = (node: Node, text: string): Text => ({ text, level: 4, type: node.type });
export const parts = (width: number, part: (i: number) => string): string[] =>
  Array.from({ length: width }, (_, i) => part(i));

export function literal(scalar: Scalar, value: number): string {
  if (scalar === 'f') return floatText(value);
  if (scalar === 'b') return value === 0 ? 'false' : 'true';
  if (scalar === 'u') return `${String(value >>> 0)}u`;
  // The least whole number has no literal: its size alone is out of range.
  return (value | 0) === -(2 ** 31) ? '(-2147483647 - 1)' : String(value | 0);
}

/** Component `i` of an operand. */
export const component = (arg: Text, i: number): string =>
  widthOf(arg.type) === 1 ? within(arg, 4) : `${within(arg, 4)}[${String(i)}]`;

export const isNonZero = (node: Node | undefined): boolean =>
  node?.kind === 'constant' && node.payload.every((v) => v !== 0);
export const isAll = (node: Node | undefined, value: number): boolean =>
  node?.kind === 'constant' && node.payload.every((v) => v === value);

/** `a < b` of vectors, where operators compare their components. */
const each =
  (operator: string) =>
  (a: string, b: string): string =>
    `(${a} ${operator} ${b})`;

/** Kinds that are written alike in all languages here. */
type Alike =
  | 'constant'
  | 'input'
  | 'uniform'
  | 'parameter'
  | 'neg'
  | 'abs'
  | 'floor'
  | 'ceil'
  | 'sqrt'
  | 'log'
  | 'sin'
  | 'cos'
  | 'add'
  | 'sub'
  | 'mul'
  | 'div'
  | 'pow'
  | 'atan2'
  | 'dot'
  | 'vec'
  | 'swizzle'
  | 'convert'
  | 'call';
/** Kinds that are written alike where operators go by components and functions take operands of one width. */
type Strict = 'exp' | 'not' | 'mod' | 'min' | 'max' | 'lt' | 'le' | 'eq' | 'clamp';

type Some = readonly [Text, ...Text[]];
type Pair = readonly [Text, Text, ...Text[]];

/** Ways to write kinds of nodes that C-like shading languages share. */
export function spelled(s: Spelling) {
  /** An operand widened to a width; its scalar kind stays. */
  const splat = (arg: Text, width: number): Text => {
    if (widthOf(arg.type) === width) return arg;
    const type = irType(scalarOf(arg.type), width);
    return { text: s.cast(type, arg.text), level: 4, type };
  };
  /** A number as wide as a type. */
  const wide = (type: IrType, text: string): string => (widthOf(type) === 1 ? text : s.cast(type, text));
  const call =
    (name: string) =>
    (node: Node, args: readonly Text[]): Text =>
      atom(node, `${name}(${args.map((a) => splat(a, widthOf(node.type)).text).join(', ')})`);
  /** A call whose operands after the first may be narrow. */
  const loose =
    (name: string) =>
    (node: Node, [first, ...rest]: Some): Text =>
      atom(node, `${name}(${[splat(first, widthOf(node.type)), ...rest].map((a) => a.text).join(', ')})`);
  /** `a + b`: vectors and numbers mix. */
  const infix =
    (operator: string, level: number) =>
    (node: Node, [a, b]: Pair): Text => ({
      text: `${within(a, level)} ${operator} ${within(b, level + 1)}`,
      level,
      type: node.type,
    });
  /** `a < b` of numbers; of vectors as `vector` writes it. */
  const compare =
    (operator: string, vector: (a: string, b: string) => string) =>
    (node: Node, [a, b]: Pair): Text => {
      const width = widthOf(node.type);
      return width === 1
        ? { text: `${within(a, 1)} ${operator} ${within(b, 1)}`, level: 0, type: node.type }
        : atom(node, vector(splat(a, width).text, splat(b, width).text));
    };
  const shift =
    (operator: string) =>
    (node: NodeKind<'shl' | 'shr'>, [a]: Some): Text => ({
      text: `${within(a, 4)} ${operator} ${String(node.payload)}`,
      level: 0,
      type: node.type,
    });
  /** Bits of integers, or truth: of a number, and of a vector by components. */
  const logical =
    (bits: string, truth: string, truths = truth) =>
    (node: Node, [a, b]: Pair): Text => {
      const width = widthOf(node.type);
      const operator = scalarOf(node.type) !== 'b' ? bits : width === 1 ? truth : truths;
      return {
        text: `${within(splat(a, width), 4)} ${operator} ${within(splat(b, width), 4)}`,
        level: 0,
        type: node.type,
      };
    };
  const alike: Pick<Dialect['expressions'], Alike> = {
    constant: (node) => {
      const scalar = scalarOf(node.type);
      const [first = 0] = node.payload;
      if (node.payload.length === 1) return { text: literal(scalar, first), level: first < 0 ? 3 : 4, type: node.type };
      const parts = node.payload.map((v) => literal(scalar, v));
      const same = node.payload.every((v) => v === first);
      return atom(node, same ? s.cast(node.type, parts[0]!) : s.vector(node.type, parts));
    },
    input: (node, _, c) => atom(node, c.input(node)),
    uniform: (node, _, c) => atom(node, c.uniform(node)),
    parameter: (node, _, c) => atom(node, c.parameter(node)),
    neg: (node, [a]) => ({ text: `-${within(a, 4)}`, level: 3, type: node.type }),
    abs: call('abs'),
    floor: call('floor'),
    ceil: call('ceil'),
    // The length of a vector where it is the root of dot(v, v).
    sqrt: (node, [a]) => {
      const of = node.args[0];
      if (!(of?.kind === 'dot' && of.args[0] === of.args[1]))
        return atom(node, `sqrt(max(${a.text}, ${wide(node.type, '0.0')}))`);
      return a.text.startsWith('dot(')
        ? atom(node, `length(${a.text.slice(4, 4 + (a.text.length - 7) / 2)})`)
        : atom(node, `sqrt(${a.text})`);
    },
    log: (node, args, c) => call(c.helper('safe_log', node.type))(node, args),
    sin: call('sin'),
    cos: call('cos'),
    add: infix('+', 1),
    sub: infix('-', 1),
    mul: infix('*', 2),
    div: (node, args, c) =>
      isNonZero(node.args[1]) ? infix('/', 2)(node, args) : call(c.helper('safe_div', node.type))(node, args),
    pow: (node, args, c) => call(c.helper('safe_pow', node.type))(node, args),
    atan2: (node, args, c) => call(c.helper('safe_atan', node.type))(node, args),
    dot: (node, [a, b]) => atom(node, `dot(${a.text}, ${b.text})`),
    vec: (node, args) => {
      const [first] = args;
      const same = widthOf(first.type) === 1 && args.every((a) => a.text === first.text);
      const texts = args.map((a) => a.text);
      return atom(node, same ? s.cast(node.type, first.text) : s.vector(node.type, texts));
    },
    swizzle: (node, [a]) =>
      widthOf(a.type) === 1
        ? splat(a, widthOf(node.type))
        : atom(node, `${within(a, 4)}.${node.payload.map((i) => 'xyzw'[i] ?? 'x').join('')}`),
    // Floats beyond what an integer can say are held to it: languages leave open what they become.
    convert: (node, [a]) => {
      const [low, high] = node.payload === 'u' ? ['0.0', '4294967040.0'] : ['-2147483648.0', '2147483520.0'];
      const toWhole = scalarOf(a.type) === 'f';
      return atom(
        node,
        s.cast(node.type, toWhole ? `clamp(${a.text}, ${wide(a.type, low)}, ${wide(a.type, high)})` : a.text),
      );
    },
    call: (node, args, c) => atom(node, `${c.callee(node)}(${args.map((a) => a.text).join(', ')})`),
  };
  const strict: Pick<Dialect['expressions'], Strict> = {
    exp: (node, [a]) => atom(node, `exp(min(${a.text}, ${wide(node.type, '88.0')}))`),
    not: (node, [a]) => ({ text: `!${within(a, 4)}`, level: 3, type: node.type }),
    // A remainder of the language's own would round towards zero.
    mod: (node, [a, b], c) =>
      call(c.helper(isNonZero(node.args[1]) ? 'floor_mod' : 'safe_mod', node.type))(node, [a, b]),
    min: call('min'),
    max: call('max'),
    lt: compare('<', each('<')),
    le: compare('<=', each('<=')),
    eq: compare('==', each('==')),
    clamp: call('clamp'),
  };
  return { splat, wide, call, loose, compare, shift, logical, alike, strict };
}
