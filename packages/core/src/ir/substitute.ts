import type { Builder } from './builder.ts';
import { inOrder, type Node } from './node.ts';

/** What to put for a node whose operands were replaced; undefined rebuilds it as it was. */
export type Rewrite = (node: Node, args: readonly Node[]) => Node | undefined;

/**
 * The graph of `root` with nodes replaced, and all that depends on them made anew. `rewrite`, where it
 * is given, is asked about each node that changed.
 */
export function substitute(b: Builder, root: Node, replaced: ReadonlyMap<Node, Node>, rewrite?: Rewrite): Node {
  const result = new Map<Node, Node>(replaced);
  for (const node of inOrder([root])) {
    if (result.has(node)) continue;
    const args = node.args.map((a) => result.get(a) ?? a);
    const changed = args.some((a, i) => a !== node.args[i]);
    result.set(node, changed ? (rewrite?.(node, args) ?? b.node(node.kind, node.type, args, node.payload)) : node);
  }
  return result.get(root) ?? root;
}
