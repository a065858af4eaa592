import type { Value } from './kinds.ts';
import { inOrder, sourceName, type ImageSlot, type IrFunction, type Node } from './node.ts';

/** What stands around a graph when it is written down. */
export interface DigestInputs {
  /** Values of nodes that are the same over a frame. */
  readonly frame: ReadonlyMap<Node, Value>;
  /** What tells the contents of an image. */
  readonly contentsOf: (slot: ImageSlot) => string;
}

/**
 * A graph as a text that is equal for equal graphs, whatever its steps, dials and functions are called and in whatever
 * order its nodes were made: nodes by number, after their operands. What is the same over a frame stands as its value.
 */
export function digestOf(root: Node, { frame, contentsOf }: DigestInputs): string {
  const functions = new Map<IrFunction, string>();
  const bodies: string[] = [];
  const bodyOf = (fn: IrFunction): string => {
    const known = functions.get(fn);
    if (known !== undefined) return known;
    const text = linesOf(fn.result).join('\n');
    const name = `f${String(bodies.length)}`;
    functions.set(fn, name);
    bodies.push(`${name}:\n${text}`);
    return name;
  };
  const payloadOf = (node: Node): string => {
    switch (node.kind) {
      case 'call':
        return bodyOf(node.payload);
      case 'sample':
        return [node.payload.wrap, node.payload.filter, node.payload.encoding, contentsOf(node.payload)].join(' ');
      case 'uniform':
        return sourceName(node.payload);
      default:
        return node.payload === undefined ? '' : JSON.stringify(node.payload);
    }
  };
  function linesOf(result: Node): string[] {
    const numbers = new Map<Node, number>();
    const lines: string[] = [];
    const add = (node: Node, text: string): void => {
      numbers.set(node, lines.length);
      lines.push(text);
    };
    const numberOf = (node: Node): string => {
      const value = frame.get(node);
      if (value && !numbers.has(node)) add(node, `${node.type} ${value.join(' ')}`);
      return String(numbers.get(node) ?? '');
    };
    // What leads to a value of the frame does not count.
    for (const node of inOrder([result], new Set(frame.keys()))) {
      const args = node.args.map(numberOf).join();
      add(node, `${node.kind} ${node.type} ${args} ${payloadOf(node)}`);
    }
    return [...lines, `= ${numberOf(result)}`];
  }
  const lines = linesOf(root);
  return [...bodies, ...lines].join('\n');
}
