import type { Builder } from '../../ir/builder.ts';
import { inOrder, irType, widthOf, type Kind, type Node } from '../../ir/node.ts';

/** Kinds that may jump from one pixel to the next though what they are made of does not. */
const JUMPS: ReadonlySet<Kind> = new Set<Kind>(['fract', 'floor', 'ceil', 'mod', 'atan2', 'sign', 'select', 'lt', 'le', 'eq', 'convert', 'bits']);

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
      this.#jumps.set(n, !smooth && (JUMPS.has(n.kind) || n.args.some((a) => this.#jumps.get(a) === true)));
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
    const [x, y, z] = node.args;
    const d = (of: Node | undefined): Node => this.#slopes[axis].get(of!) ?? ZERO(b, of!);
    switch (node.kind) {
      case 'fract': {
        // What comes from an image, such as a path map, may itself step back by whole periods.
        const slope = d(x);
        return inOrder([x!]).some((n) => n.kind === 'read') ? b.sub(slope, b.floor(b.add(slope, 0.5))) : slope;
      }
      case 'mod':
        return d(x);
      case 'floor':
      case 'ceil':
      case 'sign':
      case 'convert':
      case 'bits':
        return ZERO(b, node);
      case 'neg':
        return b.neg(d(x));
      case 'abs':
        return b.mul(b.sign(x!), d(x));
      case 'add':
        return b.add(d(x), d(y));
      case 'sub':
        return b.sub(d(x), d(y));
      case 'mul':
        return b.add(b.mul(d(x), y!), b.mul(x!, d(y)));
      case 'div':
        return b.div(b.sub(d(x), b.mul(node, d(y))), y!);
      case 'sqrt':
        return b.div(b.mul(d(x), 0.5), node);
      case 'sin':
        return b.mul(b.cos(x!), d(x));
      case 'cos':
        return b.neg(b.mul(b.sin(x!), d(x)));
      case 'exp':
        return b.mul(node, d(x));
      case 'atan2':
        return b.div(b.sub(b.mul(y!, d(x)), b.mul(x!, d(y))), b.add(b.mul(x!, x!), b.mul(y!, y!)));
      case 'dot':
        return b.add(b.dot(d(x), y!), b.dot(x!, d(y)));
      case 'min':
        return b.select(b.le(x!, y!), d(x), d(y));
      case 'max':
        return b.select(b.le(y!, x!), d(x), d(y));
      case 'clamp':
        return b.select(b.and(b.le(y!, x!), b.le(x!, z!)), d(x), 0);
      case 'mix':
        return b.add(b.mix(d(x), d(y), z!), b.mul(b.sub(y!, x!), d(z)));
      case 'select':
        return b.select(x!, d(y), d(z));
      case 'vec':
        return b.vec(...node.args.map(d));
      case 'pick':
        return b.pick(d(x), ...node.payload);
      default:
        return direct();
    }
  }
}
