import type { IrType, Kind, NodeKind } from '../../ir/node.ts';
import type { Text } from './text.ts';

/** What an expression needs from around it. */
export interface ExpressionContext {
  /** The name of a helper for values of a type; it is defined then. */
  readonly helper: (name: string, type: IrType) => string;
  readonly input: (node: NodeKind<'input'>) => string;
  /** What the host sets: time, or a dial in internal units. */
  readonly uniform: (node: NodeKind<'uniform'>) => string;
  readonly parameter: (node: NodeKind<'parameter'>) => string;
  readonly sampler: (node: NodeKind<'sample'>) => string;
  readonly callee: (node: NodeKind<'call'>) => string;
}

/** Operands as text: as many as the kind takes. */
export type Operands = readonly [Text, Text, Text, ...Text[]];

export type Express<K extends Kind> = (node: NodeKind<K>, args: Operands, context: ExpressionContext) => Text;

/** A function that emitted code may call, for values of a type. */
export interface Helper {
  readonly write: (type: IrType, nameOf: (type: IrType) => string) => string;
  /** For vectors it calls its own form for numbers. */
  readonly byComponents?: true;
}

/** A field, parameter or result. */
export interface Declared {
  readonly name: string;
  /** The name of its type in the dialect. */
  readonly type: string;
}

/** What a shading language has of its own: all else of emitting is shared. */
export interface Dialect {
  /** Words that nothing may be called. */
  readonly reserved: ReadonlySet<string>;
  readonly typeName: (type: IrType) => string;
  /** How each kind of node is written; a kind that is missing does not compile. */
  readonly expressions: { readonly [K in Kind]: Express<K> };
  readonly helpers: Readonly<Record<string, Helper>>;
  /** What is put behind the name of a helper or function for values of a type, where names cannot be shared. */
  readonly overload: (type: IrType) => string;
  /** Declares an image to be read, `index` counting from 0. */
  readonly sampler: (name: string, index: number) => string;
  readonly comment: (text: string) => string;
  readonly struct: (name: string, fields: readonly Declared[]) => string;
  /** A statement that names a value. */
  readonly local: (of: Declared, value: string) => string;
  /** A statement that declares what is set afterwards. */
  readonly variable: (of: Declared) => string;
  /** Whether an unsigned number, or each of a vector, is not zero. */
  readonly truth: (text: string, width: number) => string;
  readonly function: (of: Declared, parameters: readonly Declared[], body: readonly string[], result: string) => string;
}
