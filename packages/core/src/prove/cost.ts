import type { Graph } from '../lower/lower.ts';
import { KINDS } from '../ir/kinds.ts';
import { inOrder, widthOf, type IrFunction, type Node } from '../ir/node.ts';
import type { Step } from '../check/program.ts';

/** What one pixel costs: arithmetic, counted by component; image reads; images bound. */
export interface Cost {
  readonly operations: number;
  readonly reads: number;
  readonly samplers: number;
}
/** The most that is wanted of each; what is not given is not watched. */
export type Budget = Partial<Cost>;

export const MEASURES = ['operations', 'reads', 'samplers'] as const satisfies readonly (keyof Cost)[];

/** What costs more than is wanted. */
export const exceeded = (cost: Cost, budget: Budget): readonly (keyof Cost)[] =>
  MEASURES.filter((what) => cost[what] > (budget[what] ?? Infinity));

const functions = new WeakMap<IrFunction, number>();
function costOfFunction(fn: IrFunction): number {
  let known = functions.get(fn);
  if (known === undefined)
    functions.set(fn, (known = inOrder([fn.result]).reduce((sum, n) => sum + operationsOf(n), 0)));
  return known;
}

function operationsOf(node: Node): number {
  if (node.kind === 'call') return costOfFunction(node.payload);
  const { cost } = KINDS[node.kind];
  if (cost === 'free') return 0;
  return cost === 'a component' ? widthOf(node.type) : (cost as (node: Node) => number)(node);
}

const NOTHING: Cost = { operations: 0, reads: 0, samplers: 0 };

function costOf(nodes: readonly Node[]): Cost {
  let [operations, reads] = [0, 0];
  const images = new Set<string>();
  for (const node of nodes) {
    // What is the same over a frame is computed outside.
    if (node.frequency !== 'pixel') continue;
    operations += operationsOf(node);
    if (node.kind !== 'sample') continue;
    reads++;
    images.add(node.payload.name);
  }
  return { operations, reads, samplers: images.size };
}

/** Of all outputs together. */
export const materialCost = (graph: Graph): Cost => costOf(inOrder([...graph.outputs.values()]));

/** What each step adds to the steps above it, by step index; nothing where no output uses it. */
export function stepCosts(graph: Graph, live: ReadonlySet<Step>): readonly Cost[] {
  const seen = new Set<Node>();
  const images = new Set<string>();
  const used = new Set(inOrder([...graph.outputs.values()]));
  return graph.program.steps.map((step) => {
    if (!live.has(step) || step.off) return NOTHING;
    const added = inOrder([graph.steps[step.index]!], seen).filter((n) => used.has(n));
    const cost = costOf(added);
    if (cost.reads === 0) return cost;
    const before = images.size;
    for (const n of added) if (n.kind === 'sample') images.add(n.payload.name);
    return { ...cost, samplers: images.size - before };
  });
}
