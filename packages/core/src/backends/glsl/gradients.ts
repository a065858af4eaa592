import type { Builder } from '../../ir/builder.ts';
import { inOrder, irType, widthOf, type Kind, type Node, type NodeKind } from '../../ir/node.ts';

const ZERO = (b: Builder, node: Node): Node =>
  b.constant(
    irType('f', widthOf(node.type)),
    Array.from({ length: widthOf(node.type) }, () => 0),
  );

/**
 * Gives image reads explicit gradients wherever the difference to the neighbouring pixel would be wrong:
 * where the coordinate is wrapped, polar or chosen. There the derivative goes through the jump by the
 * chain rule (of a wrapped coordinate, that of the coordinate), so that no hairline shows at it. Elsewhere
 * the card's own difference is right and costs nothing. Gives the nodes that stand for the old ones.
 */
export function withGradients(b: Builder, roots: readonly Node[]): (node: Node) => Node {
  const result = new Map<Node, Node>();
  const slopes = new Slopes(b);
  for (const node of inOrder(roots)) {
    const args = node.args.map((a) => result.get(a) ?? a);
    const [at] = args;
    if (node.kind === 'read' && at && slopes.jumps(at)) {
      result.set(node, b.node('read', node.type, [at, slopes.of(at, 'x'), slopes.of(at, 'y')], node.payload));
    } else if (args.some((a, i) => a !== node.args[i])) {
      result.set(node, b.node(node.kind, node.type, args, node.payload));
    }
  }
  return (node) => result.get(node) ?? node;
}

class Slopes {
  readonly #jumps = new Map<Node, boolean>();
  readonly #looked = new Set<Node>();
  readonly #slopes = { x: new Map<Node, Node>(), y: new Map<Node, Node>() };
  readonly #sloped = { x: new Set<Node>(), y: new Set<Node>() };

  constructor(readonly b: Builder) {}

  /** Whether a node may jump between neighbouring pixels. Noise and images are taken as smooth. */
  jumps(node: Node): boolean {
    for (const n of inOrder([node], this.#looked)) {
      const smooth = n.rate !== 'pixel' || n.kind === 'call' || n.kind === 'read';
      this.#jumps.set(
        n,
        !smooth && (DERIVATIVES[n.kind].jumps === true || n.args.some((a) => this.#jumps.get(a) === true)),
      );
    }
    return this.#jumps.get(node) ?? false;
  }

  /** Change of a node's value to the next pixel along an axis of the screen. */
  of(node: Node, axis: 'x' | 'y'): Node {
    const slopes = this.#slopes[axis];
    for (const n of inOrder([node], this.#sloped[axis])) slopes.set(n, this.#slope(n, axis));
    return slopes.get(node) ?? ZERO(this.b, node);
  }

  #slope(node: Node, axis: 'x' | 'y'): Node {
    const { b } = this;
    if (node.rate !== 'pixel' || !node.type.startsWith('f')) return ZERO(b, node);
    const direct = (): Node => b.node('slope', node.type, [node], axis);
    if (!this.jumps(node)) return direct();
    const of = DERIVATIVES[node.kind].of as Derivative<Kind>;
    return of(b, node, (operand) => this.#slopes[axis].get(operand) ?? ZERO(b, operand)) ?? direct();
  }
}

/**
 * The slope of a node from those of its operands, which `d` gives; undefined where the card's own difference is as
 * good.
 */
type Derivative<K extends Kind> = (b: Builder, node: NodeKind<K>, d: (operand: Node) => Node) => Node | undefined;

interface Steepness<K extends Kind> {
  /** Whether it may jump from one pixel to the next though what it is made of does not. */
  readonly jumps?: boolean;
  readonly of: Derivative<K>;
}

const none = { of: () => undefined };
/** Constant between jumps. */
const flat = { jumps: true, of: (b: Builder, node: Node) => ZERO(b, node) };
type Operands = readonly [Node, Node, Node];
/** With the operands taken apart. */
const of =
  <K extends Kind>(
    f: (b: Builder, args: Operands, d: (operand: Node) => Node, node: NodeKind<K>) => Node,
  ): Derivative<K> =>
  (b, node, d) =>
    f(b, node.args as never, d, node);

/** The chain rule for every kind; a smooth one may leave it to the card. */
const DERIVATIVES: { readonly [K in Kind]: Steepness<K> } = {
  constant: none,
  input: none,
  frame: none,
  parameter: none,
  neg: { of: of((b, [x], d) => b.neg(d(x))) },
  abs: { of: of((b, [x], d) => b.mul(b.sign(x), d(x))) },
  floor: flat,
  ceil: flat,
  fract: {
    jumps: true,
    // What comes from an image, such as a path map, may itself step back by whole periods.
    of: of((b, [x], d) =>
      inOrder([x]).some((n) => n.kind === 'read') ? b.sub(d(x), b.floor(b.add(d(x), 0.5))) : d(x),
    ),
  },
  sign: flat,
  sqrt: { of: of((b, [x], d, node) => b.div(b.mul(d(x), 0.5), node)) },
  exp: { of: of((b, [x], d, node) => b.mul(node, d(x))) },
  log: none,
  sin: { of: of((b, [x], d) => b.mul(b.cos(x), d(x))) },
  cos: { of: of((b, [x], d) => b.neg(b.mul(b.sin(x), d(x)))) },
  not: none,
  add: { of: of((b, [x, y], d) => b.add(d(x), d(y))) },
  sub: { of: of((b, [x, y], d) => b.sub(d(x), d(y))) },
  mul: { of: of((b, [x, y], d) => b.add(b.mul(d(x), y), b.mul(x, d(y)))) },
  div: { of: of((b, [x, y], d, node) => b.div(b.sub(d(x), b.mul(node, d(y))), y)) },
  mod: { jumps: true, of: of((_, [x], d) => d(x)) },
  min: { of: of((b, [x, y], d) => b.select(b.le(x, y), d(x), d(y))) },
  max: { of: of((b, [x, y], d) => b.select(b.le(y, x), d(x), d(y))) },
  pow: none,
  atan2: {
    jumps: true,
    of: of((b, [x, y], d) => b.div(b.sub(b.mul(y, d(x)), b.mul(x, d(y))), b.add(b.mul(x, x), b.mul(y, y)))),
  },
  and: none,
  or: none,
  xor: none,
  shl: none,
  shr: none,
  lt: { jumps: true, of: () => undefined },
  le: { jumps: true, of: () => undefined },
  eq: { jumps: true, of: () => undefined },
  select: { jumps: true, of: of((b, [x, y, z], d) => b.select(x, d(y), d(z))) },
  mix: { of: of((b, [x, y, z], d) => b.add(b.mix(d(x), d(y), z), b.mul(b.sub(y, x), d(z)))) },
  clamp: { of: of((b, [x, y, z], d) => b.select(b.and(b.le(y, x), b.le(x, z)), d(x), 0)) },
  dot: { of: of((b, [x, y], d) => b.add(b.dot(d(x), y), b.dot(x, d(y)))) },
  vec: { of: (b, node, d) => b.vec(...node.args.map(d)) },
  pick: { of: (b, node, d) => b.pick(d(node.args[0]!), ...node.payload) },
  convert: flat,
  bits: flat,
  slope: none,
  read: none,
  call: none,
};
