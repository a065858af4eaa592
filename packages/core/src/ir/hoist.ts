import { inOrder, type Node } from './node.ts';

/**
 * Nodes that do not depend on the pixel but are used where things do: the per-frame values, computed
 * once a frame in float64 and handed to the pixels as 32-bit values. Constants are left in place.
 * Nodes in `done` were looked at before; it is added to.
 */
export function frameValues(roots: readonly Node[], done?: Set<Node>): Node[] {
  const found = new Set<Node>();
  for (const root of roots) if (root.frequency === 'frame') found.add(root);
  for (const node of inOrder(roots, done)) {
    if (node.frequency !== 'pixel') continue;
    for (const arg of node.args) if (arg.frequency === 'frame') found.add(arg);
  }
  return [...found];
}
