/** Scalar kinds: 32-bit float, signed and unsigned 32-bit integers, boolean. */
export type Scalar = 'f' | 'i' | 'u' | 'b';
export type Width = 1 | 2 | 3 | 4;
/** A scalar kind and a width: `f3` is three floats. */
export type IrType = `${Scalar}${Width}`;

export const scalarOf = (type: IrType): Scalar => type[0] as Scalar;
export const widthOf = (type: IrType): Width => Number(type[1]) as Width;
export const irType = (scalar: Scalar, width: number): IrType => `${scalar}${String(width)}` as IrType;

/** Values that differ from pixel to pixel. */
export const PIXEL_INPUTS = {
  uv: 'f2',
  uv2: 'f2',
  screen: 'f2',
  position: 'f3',
  world: 'f3',
  vertex_color: 'f4',
  /** Cosine of the angle between the surface's normal and the view; 1 in a flat bake. */
  facing: 'f1',
  /** Metres from the surface to the geometry behind it, along the view; very far where there is none. */
  depth_behind: 'f1',
} as const satisfies Record<string, IrType>;
export type PixelInput = keyof typeof PIXEL_INPUTS;

/** How often a node changes: never, once a frame (and with a dial), or from pixel to pixel. */
export type Frequency = 'constant' | 'frame' | 'pixel';
const FREQUENCIES: readonly Frequency[] = ['constant', 'frame', 'pixel'];
export const mostVarying = (a: Frequency, b: Frequency): Frequency =>
  FREQUENCIES.indexOf(a) >= FREQUENCIES.indexOf(b) ? a : b;

/** What the host sets for each frame: seconds since the start, or a dial's value in internal units. */
export type UniformSource = 'time' | { readonly dial: string };
/** Its name, in digests and manifests: `time`, or `dial` and the dial's. */
export const sourceName = (source: UniformSource): string => (source === 'time' ? 'time' : `dial ${source.dial}`);

/**
 * What the maker of a `mod` vouches for of its period: where its third operand n is a whole number, the period is
 * max(`times` * |n|, 1).
 */
export interface PeriodFact {
  readonly times: number;
}

/** An image as a shader reads it: which declaration, and how it is wrapped, filtered and decoded. */
export interface ImageSlot {
  readonly name: string;
  readonly source: string;
  readonly wrap: 'repeat' | 'mirror' | 'clamp';
  readonly filter: 'linear' | 'nearest';
  readonly encoding: 'color' | 'data' | 'normal';
}

/** A function shared by several places of a program, such as one octave of a noise. */
export interface IrFunction {
  readonly name: string;
  /** What it computes, for the comment above it in emitted code. */
  readonly about: string;
  readonly parameters: readonly { readonly name: string; readonly type: IrType }[];
  /** Which parameter is the seed, for functions that make noise: said by who defines it. */
  readonly seed?: number;
  readonly result: Node;
}

/**
 * What a node is made of. Componentwise kinds take operands of one width, or of width 1 beside
 * another, and give the widest. Total on every input: see `ir/kinds.ts`.
 */
export interface Payloads {
  /** `values`, one per component; booleans are 0 and 1. */
  constant: readonly number[];
  /** A value that changes with the pixel. */
  input: PixelInput;
  /** A value that is the same over a frame. */
  uniform: UniformSource;
  /** An argument of the function around it, by index. */
  parameter: number;
  neg: undefined;
  abs: undefined;
  floor: undefined;
  ceil: undefined;
  fract: undefined;
  sign: undefined;
  sqrt: undefined;
  exp: undefined;
  log: undefined;
  sin: undefined;
  cos: undefined;
  not: undefined;
  add: undefined;
  sub: undefined;
  mul: undefined;
  div: undefined;
  /** value, period; with a fact of the period, a third operand that only the prover reads. */
  mod: PeriodFact | undefined;
  min: undefined;
  max: undefined;
  pow: undefined;
  atan2: undefined;
  and: undefined;
  or: undefined;
  xor: undefined;
  /** By so many bits, 0..31: known when compiling. */
  shl: number;
  shr: number;
  lt: undefined;
  le: undefined;
  eq: undefined;
  /** condition, then, otherwise. */
  select: undefined;
  /** from, to, weight: from + (to - from) * weight. */
  mix: undefined;
  /** value, low, high: min(max(value, low), high). */
  clamp: undefined;
  dot: undefined;
  /** Puts components side by side. */
  vec: undefined;
  /** Takes components by index. */
  swizzle: readonly number[];
  /** Float to integer by truncation, integer to float, or the same bits signed or unsigned. */
  convert: Exclude<Scalar, 'b'>;
  /** The same 32 bits read as another scalar kind. */
  bitcast: Scalar;
  /** Change to the next pixel along an axis of the screen; 0 where there is no screen. */
  derivative: 'x' | 'y';
  /**
   * Reads an image at a coordinate: decoded, filtered, wrapped as its slot says; with the coordinate's two slopes,
   * where they are given.
   */
  sample: ImageSlot;
  call: IrFunction;
}
export type Kind = keyof Payloads;

interface NodeOf<K extends Kind> {
  readonly id: number;
  readonly kind: K;
  readonly type: IrType;
  readonly args: readonly Node[];
  readonly payload: Payloads[K];
  readonly frequency: Frequency;
}
/** One operation of a program's graph. Equal nodes of one builder are the same object. */
export type Node = { [K in Kind]: NodeOf<K> }[Kind];
export type NodeKind<K extends Kind> = NodeOf<K>;

/**
 * All nodes that the roots depend on, each after its operands. Those in `done` are left out with what they depend on;
 * it is added to.
 */
export function inOrder(roots: readonly Node[], done = new Set<Node>()): Node[] {
  const order: Node[] = [];
  // An explicit stack, of nodes and of which operand is next: graphs may be thousands of nodes deep.
  const stack: Node[] = [];
  const next: number[] = [];
  const enter = (node: Node): void => {
    if (done.has(node)) return;
    done.add(node);
    stack.push(node);
    next.push(0);
  };
  for (const root of roots) {
    enter(root);
    while (stack.length > 0) {
      const top = stack.length - 1;
      const child = stack[top]!.args[next[top]!++];
      if (child) enter(child);
      else {
        order.push(stack.pop()!);
        next.pop();
      }
    }
  }
  return order;
}

/** Whether any of the values changes as time goes on. */
export const dependsOnTime = (roots: readonly Node[]): boolean =>
  inOrder(roots).some((n) => n.kind === 'uniform' && n.payload === 'time');
