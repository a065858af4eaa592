import type { Builder } from '../../ir/builder.ts';
import { KINDS, stillSlope, type Derivative } from '../../ir/kinds.ts';
import { inOrder, type Kind, type Node } from '../../ir/node.ts';

/**
 * Gives image reads explicit gradients wherever the difference to the neighbouring pixel would be wrong:
 * where the coordinate is wrapped, polar or chosen. There the derivative goes through the jump by the
 * chain rule (of a wrapped coordinate, that of the coordinate), so that no hairline shows at it. Elsewhere
 * the implicit derivative is right and costs nothing. Gives the nodes that stand for the old ones.
 */
export function withGradients(b: Builder, roots: readonly Node[]): (node: Node) => Node {
  const result = new Map<Node, Node>();
  const derivatives = new Derivatives(b);
  for (const node of inOrder(roots)) {
    const args = node.args.map((a) => result.get(a) ?? a);
    const [at] = args;
    if (node.kind === 'sample' && at && derivatives.jumps(at)) {
      result.set(
        node,
        b.node('sample', node.type, [at, derivatives.of(at, 'x'), derivatives.of(at, 'y')], node.payload),
      );
    } else if (args.some((a, i) => a !== node.args[i])) {
      result.set(node, b.node(node.kind, node.type, args, node.payload));
    }
  }
  return (node) => result.get(node) ?? node;
}

class Derivatives {
  readonly #jumps = new Map<Node, boolean>();
  readonly #looked = new Set<Node>();
  readonly #derivatives = { x: new Map<Node, Node>(), y: new Map<Node, Node>() };
  readonly #seen = { x: new Set<Node>(), y: new Set<Node>() };

  constructor(readonly b: Builder) {}

  /** Whether a node may jump between neighbouring pixels. Noise and images are taken as smooth. */
  jumps(node: Node): boolean {
    for (const n of inOrder([node], this.#looked)) {
      const smooth = n.frequency !== 'pixel' || n.kind === 'call' || n.kind === 'sample';
      this.#jumps.set(n, !smooth && (KINDS[n.kind].jumps === true || n.args.some((a) => this.#jumps.get(a) === true)));
    }
    return this.#jumps.get(node) ?? false;
  }

  /** Change of a node's value to the next pixel along an axis of the screen. */
  of(node: Node, axis: 'x' | 'y'): Node {
    const derivatives = this.#derivatives[axis];
    for (const n of inOrder([node], this.#seen[axis])) derivatives.set(n, this.#derivative(n, axis));
    return derivatives.get(node) ?? stillSlope(this.b, node);
  }

  #derivative(node: Node, axis: 'x' | 'y'): Node {
    const { b } = this;
    if (node.frequency !== 'pixel' || !node.type.startsWith('f')) return stillSlope(b, node);
    const direct = (): Node => b.node('derivative', node.type, [node], axis);
    if (!this.jumps(node)) return direct();
    const rule = KINDS[node.kind].derivative as Derivative<Kind>;
    if (rule === 'implicit') return direct();
    return rule(b, node, (operand) => this.#derivatives[axis].get(operand) ?? stillSlope(b, operand));
  }
}
