import { irType, scalarOf, widthOf, type IrType, type Node, type NodeKind, type Scalar } from '../../ir/node.ts';
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
  /** A number as wide as a node. */
  const wide = (node: Node, text: string): string => (widthOf(node.type) === 1 ? text : s.cast(node.type, text));
  return {
    splat,
    wide,
    constant: (node: NodeKind<'constant'>): Text => {
      const scalar = scalarOf(node.type);
      const [first = 0] = node.payload;
      if (node.payload.length === 1) return { text: literal(scalar, first), level: first < 0 ? 3 : 4, type: node.type };
      return atom(
        node,
        node.payload.every((v) => v === first)
          ? s.cast(node.type, literal(scalar, first))
          : s.vector(
              node.type,
              node.payload.map((v) => literal(scalar, v)),
            ),
      );
    },
    call:
      (name: string) =>
      (node: Node, args: readonly Text[]): Text =>
        atom(node, `${name}(${args.map((a) => splat(a, widthOf(node.type)).text).join(', ')})`),
    /** A call whose operands after the first may be narrow. */
    loose:
      (name: string) =>
      (node: Node, [first, ...rest]: Some): Text =>
        atom(node, `${name}(${[splat(first, widthOf(node.type)), ...rest].map((a) => a.text).join(', ')})`),
    negated: (node: Node, [a]: Some): Text => ({ text: `-${within(a, 4)}`, level: 3, type: node.type }),
    /** `a + b`: vectors and numbers mix. */
    infix:
      (operator: string, level: number) =>
      (node: Node, [a, b]: Pair): Text => ({
        text: `${within(a, level)} ${operator} ${within(b, level + 1)}`,
        level,
        type: node.type,
      }),
    /** `a < b` of numbers; of vectors as `vector` writes it. */
    compare:
      (operator: string, vector: (a: string, b: string) => string) =>
      (node: Node, [a, b]: Pair): Text => {
        const width = widthOf(node.type);
        return width === 1
          ? { text: `${within(a, 1)} ${operator} ${within(b, 1)}`, level: 0, type: node.type }
          : atom(node, vector(splat(a, width).text, splat(b, width).text));
      },
    vec: (node: NodeKind<'vec'>, args: Some): Text => {
      const [first] = args;
      const same = widthOf(first.type) === 1 && args.every((a) => a.text === first.text);
      const texts = args.map((a) => a.text);
      return atom(node, same ? s.cast(node.type, first.text) : s.vector(node.type, texts));
    },
    swizzle: (node: NodeKind<'swizzle'>, [a]: Some): Text =>
      widthOf(a.type) === 1
        ? splat(a, widthOf(node.type))
        : atom(node, `${within(a, 4)}.${node.payload.map((i) => 'xyzw'[i] ?? 'x').join('')}`),
    /** Floats beyond what an integer can say are held to it: languages leave open what they become. */
    convert: (node: NodeKind<'convert'>, [a]: Some): Text => {
      const [low, high] = node.payload === 'u' ? ['0.0', '4294967040.0'] : ['-2147483648.0', '2147483520.0'];
      const bound = (text: string): string => (widthOf(a.type) === 1 ? text : s.cast(a.type, text));
      const toWhole = scalarOf(a.type) === 'f';
      return atom(node, s.cast(node.type, toWhole ? `clamp(${a.text}, ${bound(low)}, ${bound(high)})` : a.text));
    },
    /** A square root; the length of a vector where it is that of dot(v, v). */
    root: (node: NodeKind<'sqrt'>, [a]: Some): Text => {
      const of = node.args[0];
      if (!(of?.kind === 'dot' && of.args[0] === of.args[1]))
        return atom(node, `sqrt(max(${a.text}, ${wide(node, '0.0')}))`);
      return a.text.startsWith('dot(')
        ? atom(node, `length(${a.text.slice(4, 4 + (a.text.length - 7) / 2)})`)
        : atom(node, `sqrt(${a.text})`);
    },
  };
}
