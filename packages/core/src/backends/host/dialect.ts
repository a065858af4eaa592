import type { IrType, Kind, NodeKind, Scalar } from '../../ir/node.ts';

/** A number, whole number or truth as text, with how tightly it binds: 0 comparison, 1 sum, 2 product, 3 unary, 4 atom. */
export interface Term {
  readonly text: string;
  readonly level: number;
}

/** A component of each operand; those of narrow operands stand for all. */
export type Components = readonly [Term, Term, Term, ...Term[]];

/** Writes one component of a node, whose scalar kind and that of its first operand are given. */
export type Express<K extends Kind> = (
  node: NodeKind<K>,
  args: Components,
  context: { readonly helper: (name: string) => string; readonly from: Scalar },
) => Term;

/** Kinds that only move components about, stand for values or call functions; the emitter does these itself. */
export type Structural = 'constant' | 'uniform' | 'parameter' | 'vec' | 'swizzle' | 'dot' | 'call';
/** Kinds of what differs from pixel to pixel: there is none in a frame. */
export type OfPixels = 'input' | 'sample' | 'derivative';

/** A parameter or result, spread into its components. */
export interface Declared {
  readonly name: string;
  readonly type: IrType;
}

/** A host language, which computes values of the frame as plain numbers, component by component. */
export interface HostDialect {
  readonly reserved: ReadonlySet<string>;
  readonly literal: (scalar: Scalar, value: number) => Term;
  readonly expressions: { readonly [K in Exclude<Kind, Structural | OfPixels>]: Express<K> };
  /** Code of helpers by name, `NAME` in place of the helper's own; those that call others come after them. */
  readonly helpers: Readonly<Record<string, string>>;
  readonly comment: (text: string) => string;
  readonly local: (scalar: Scalar, name: string, value: string) => string;
  /** A statement that calls a function of several components into an array of a name. */
  readonly callInto: (name: string, type: IrType, callee: string, args: readonly string[]) => string;
  readonly function: (
    name: string,
    type: IrType,
    parameters: readonly { readonly name: string; readonly scalar: Scalar }[],
    body: readonly string[],
    result: readonly string[],
  ) => string;
}
