import type { Node } from '../ir/node.ts';
import { fractionIn, inTurns, isZero, negated, product, sum, whole, type Exact } from './exact.ts';

/** What congruences are told of the values of a graph under a shift. */
interface Known {
  /** What a value that the shift leaves alone is worth. */
  readonly exactly: (node: Node) => Exact;
  readonly isWhole: (x: Exact) => boolean;
  /** How far a value moves, where that is known. */
  readonly change: (node: Node) => Exact | undefined;
  /** Whether a value becomes its opposite. */
  readonly negates: (node: Node) => boolean;
}

const HALF = whole(0.5);

/**
 * Values of which it is known how far they move but for whole numbers, or but for whole turns in radians: what `fract`
 * leaves of a known move, and the angle of a point that becomes its opposite.
 */
export class Congruences {
  readonly #plain = new Map<Node, Exact>();
  /** In turns. */
  readonly #radians = new Map<Node, Exact>();

  constructor(readonly known: Known) {}

  /** Notes what is known of a number whose own change is not; its operands were noted before. */
  note(node: Node): void {
    const plain = this.#plainOf(node);
    if (plain) this.#plain.set(node, plain);
    const radians = this.#radiansOf(node);
    if (radians) this.#radians.set(node, radians);
  }

  /** Whether radians move by an odd number of half turns: a sine becomes its opposite. */
  isHalfTurn(node: Node): boolean {
    const change = this.known.change(node);
    const turns = change ? inTurns(change) : this.#radians.get(node);
    const rest = turns && sum(turns, HALF);
    return rest !== undefined && this.known.isWhole(rest);
  }

  #plainOf(node: Node): Exact | undefined {
    const [x, y] = node.args as [Node, Node];
    switch (node.kind) {
      case 'fract':
        return this.known.change(x) ?? this.#plain.get(x);
      case 'neg':
        return this.#opposite(this.#plain.get(x));
      case 'add':
      case 'sub':
        return this.#sum(node, this.#plain);
      case 'mul':
        return this.#times(x, y, (worth) => worth) ?? this.#times(y, x, (worth) => worth);
      case 'div': {
        // Radians over a whole turn.
        const turns = this.#radians.get(x);
        const worth = turns && this.#worth(y);
        const by = worth && inTurns(worth);
        return by && fractionIn(by)?.equals(1) ? turns : undefined;
      }
      default:
        return undefined;
    }
  }

  #radiansOf(node: Node): Exact | undefined {
    const [x, y] = node.args as [Node, Node];
    switch (node.kind) {
      case 'neg':
        return this.#opposite(this.#radians.get(x));
      case 'add':
      case 'sub':
        return this.#sum(node, this.#radians, true);
      case 'mul':
        return this.#times(x, y, inTurns) ?? this.#times(y, x, inTurns);
      case 'atan2':
        return this.known.negates(x) && this.known.negates(y) ? HALF : undefined;
      default:
        return undefined;
    }
  }

  #opposite(x: Exact | undefined): Exact | undefined {
    return x && negated(x);
  }

  /** One operand known but for whole numbers, or turns, the other moving by a known amount. */
  #sum(node: Node, of: ReadonlyMap<Node, Exact>, radians = false): Exact | undefined {
    const [x, y] = node.args as [Node, Node];
    const changeOf = (operand: Node): Exact | undefined => {
      const change = this.known.change(operand);
      return of.get(operand) ?? (change && (radians ? inTurns(change) : change));
    };
    const [a, b] = [changeOf(x), changeOf(y)];
    return a && b && sum(a, node.kind === 'sub' ? negated(b) : b);
  }

  /** What a value is worth that the shift leaves alone. */
  #worth(node: Node): Exact | undefined {
    const change = this.known.change(node);
    return change && isZero(change) ? this.known.exactly(node) : undefined;
  }

  /** A value known but for whole numbers, so many times what `count` reads of the other operand, where that is whole. */
  #times(x: Node, y: Node, count: (worth: Exact) => Exact | undefined): Exact | undefined {
    const moved = this.#plain.get(x);
    const worth = moved && this.#worth(y);
    const by = worth && count(worth);
    return moved && by && this.known.isWhole(by) ? product(moved, by) : undefined;
  }
}
