import type { Builder } from './builder.ts';
import { KINDS, stillSlope, type Derivative } from './kinds.ts';
import { inOrder, widthOf, type IrFunction, type Kind, type Node, type NodeKind } from './node.ts';

/** Derivatives of a value along two directions, each as wide as the value. */
export type Slopes = readonly [Node, Node];

/** Whether a value may jump, or has a kink that differences see and derivatives do not. Calls are taken as smooth. */
export function isSmooth(root: Node): boolean {
  return inOrder([root]).every((n) => n.kind === 'call' || n.frequency !== 'pixel' || KINDS[n.kind].jumps !== true);
}

/**
 * Derivatives by forward accumulation (A. Griewank and A. Walther, "Evaluating Derivatives", 2008, section 3.1), along
 * two directions at once. `seeds` are the derivatives of what is moved; `sampled` tells those of an image's sample.
 * A function is called once for its value and both derivatives.
 */
export class Forward {
  readonly #slopes: Map<Node, Slopes>;
  /** What stands for a value: what is called for its derivatives gives it as well. */
  readonly #values = new Map<Node, Node>();
  readonly #looked = new Set<Node>();

  constructor(
    readonly b: Builder,
    seeds: ReadonlyMap<Node, Slopes>,
    readonly sampled: (node: NodeKind<'sample'>) => Slopes,
  ) {
    this.#slopes = new Map(seeds);
  }

  of(root: Node): Slopes {
    for (const node of inOrder([root], this.#looked)) this.#follow(node);
    return this.#slopes.get(root)!;
  }

  /** What stands for a value whose derivatives were asked for. */
  valueOf(root: Node): Node {
    return this.#values.get(root) ?? root;
  }

  #follow(node: Node): void {
    if (this.#slopes.has(node)) return;
    const args = node.args.map((arg) => this.#values.get(arg) ?? arg);
    const isSame = args.every((arg, i) => arg === node.args[i]);
    const value = isSame ? node : this.b.node(node.kind, node.type, args, node.payload);
    const called = this.#moves(value) && value.kind === 'call' ? this.#called(value) : undefined;
    const slopes = called?.slopes ?? this.#slopesOf(value);
    this.#slopes.set(node, slopes);
    const stands = called?.value ?? value;
    if (stands === node) return;
    this.#values.set(node, stands);
    this.#slopes.set(stands, slopes);
  }

  #isStill(arg: Node): boolean {
    const slopes = this.#slopes.get(arg);
    return slopes?.every((s) => s.kind === 'constant' && s.payload.every((v) => v === 0)) ?? true;
  }

  #moves(node: Node): boolean {
    return node.type.startsWith('f') && node.args.some((arg) => !this.#isStill(arg));
  }

  #still(node: Node): Slopes {
    const zero = stillSlope(this.b, node);
    return [zero, zero];
  }

  #slopesOf(node: Node): Slopes {
    if (!this.#moves(node)) return this.#still(node);
    if (node.kind === 'sample') return this.sampled(node);
    const rule = KINDS[node.kind].derivative as Derivative<Kind>;
    if (rule === 'implicit') return this.#still(node);
    const along = (axis: 0 | 1): Node =>
      this.b.splat(
        rule(this.b, node, (operand) => (this.#slopes.get(operand) ?? this.#still(operand))[axis]),
        widthOf(node.type),
      );
    return [along(0), along(1)];
  }

  /** A call's value and derivatives, by a function that gives them all. */
  #called(node: NodeKind<'call'>): { readonly value: Node; readonly slopes: Slopes } {
    const moved = node.args.flatMap((arg, i) => (this.#isStill(arg) ? [] : [i]));
    const values = this.#withSlopes(node.payload, node.args, moved);
    const width = widthOf(node.type);
    const part = (from: number): Node => this.b.swizzle(values, ...Array.from({ length: width }, (_, i) => from + i));
    return { value: part(0), slopes: [part(width), part(2 * width)] };
  }

  #withSlopes(fn: IrFunction, args: readonly Node[], moved: readonly number[]): Node {
    const { b } = this;
    const given = fn.parameters.map((p, i) => [p.name, args[i]!] as const);
    const slopes = moved.flatMap((i) =>
      this.#slopes.get(args[i]!)!.map((s, axis) => [`${fn.parameters[i]!.name}_${axis === 0 ? 'u' : 'v'}`, s] as const),
    );
    return b.call(
      `${fn.name}_by_${moved.map((i) => fn.parameters[i]!.name).join('_')}`,
      `${fn.about.replace(/\.$/, '')}; with its slopes along two directions.`,
      [...given, ...slopes],
      (_, ...parameters) => {
        // The function's own parameters are the first of these, so its body can stand here as it is.
        const seeds = new Map<Node, Slopes>(
          moved.map((i, k) => [
            parameters[i]!,
            [parameters[given.length + 2 * k]!, parameters[given.length + 2 * k + 1]!],
          ]),
        );
        const inner = new Forward(b, seeds, this.sampled);
        const [u, v] = inner.of(fn.result);
        return b.vec(inner.valueOf(fn.result), u, v);
      },
      fn.seed,
    );
  }
}
