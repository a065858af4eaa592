import type { IrType, Kind, Node, NodeKind } from '../../ir/node.ts';
import type { Text } from './text.ts';

/** What an expression needs from around it. */
export interface ExpressionContext {
  /** The name of a helper for values of a type; it is defined then. */
  readonly helper: (name: string, type: IrType) => string;
  readonly input: (node: NodeKind<'input'>) => string;
  /** The uniform that holds a value of the frame. */
  readonly uniform: (node: Node) => string;
  readonly parameter: (node: NodeKind<'parameter'>) => string;
  readonly sampler: (node: NodeKind<'sample'>) => string;
  readonly callee: (node: NodeKind<'call'>) => string;
}

/** Operands as text: as many as the kind takes. */
export type Operands = readonly [Text, Text, Text, ...Text[]];

export type Express<K extends Kind> = (node: NodeKind<K>, args: Operands, context: ExpressionContext) => Text;

/** A function that emitted code may call, for values of a type. */
export interface Helper {
  readonly write: (type: IrType) => string;
  /** For vectors it calls its own form for numbers. */
  readonly byComponents?: true;
}

/** A parameter or result of a function. */
export interface Declared {
  readonly name: string;
  readonly type: IrType;
}

/** What a shading language has of its own: all else of emitting is shared. */
export interface Dialect {
  /** Words that nothing may be called. */
  readonly reserved: ReadonlySet<string>;
  /** How each kind of node is written; a kind that is missing does not compile. */
  readonly expressions: { readonly [K in Kind]: Express<K> };
  readonly helpers: Readonly<Record<string, Helper>>;
  readonly uniform: (of: Declared) => string;
  readonly sampler: (name: string) => string;
  readonly comment: (text: string) => string;
  /** A statement that names a value. */
  readonly local: (of: Declared, value: string) => string;
  readonly function: (of: Declared, parameters: readonly Declared[], body: readonly string[], result: string) => string;
  /** The function of a whole material: what differs from pixel to pixel goes in, results are set. */
  readonly material: (
    name: string,
    inputs: readonly Declared[],
    outputs: readonly (Declared & { readonly value: string })[],
    body: readonly string[],
  ) => string;
}
