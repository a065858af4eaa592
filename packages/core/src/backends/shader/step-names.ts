import { frameValues } from '../../ir/hoist.ts';
import { irType, scalarOf, widthOf, type Node } from '../../ir/node.ts';
import type { Graph } from '../../lower/lower.ts';
import { Names } from '../names.ts';
import { FIELD_WORDS } from '../reserved.ts';
import { commentsOf } from './comments.ts';
import type { ShaderUniform } from './emit.ts';

/** What a step is called in the shader, and the comments above it. */
export interface StepName {
  readonly name: string;
  readonly comments: readonly string[];
}

export const isLeaf = ({ kind }: Node): boolean =>
  kind === 'constant' || kind === 'input' || kind === 'parameter' || kind === 'uniform';

/** Steps in text order by what they compute; the first of equal ones names it. `steps` are the nodes of the graph's. */
export function stepNames({ program }: Graph, steps: readonly Node[]): Map<Node, StepName> {
  const names = new Map<Node, StepName>();
  const comments = commentsOf(program);
  program.steps.forEach((step, i) => {
    const node = steps[i];
    if (!node || isLeaf(node) || names.has(node) || node.frequency === 'frame' || (step.off && step.kind === 'step'))
      return;
    names.set(node, { name: step.kind === 'out' ? `final_${step.name}` : step.name, comments: comments(step) });
  });
  return names;
}

/** Values of the frame by the names of their fields. */
export const frameNames = (uniforms: readonly ShaderUniform[]): Map<Node, StepName> =>
  new Map(uniforms.filter((u) => !isLeaf(u.node)).map((u) => [u.node, { name: u.name, comments: [] }]));

/**
 * The fields of the frame that some roots read. Dials and time keep their names; what is made of them is called by the
 * first step that it serves.
 */
export function frameFields(
  { program }: Graph,
  steps: readonly Node[],
  roots: readonly Node[],
): Map<Node, ShaderUniform> {
  const by = new Map<Node, string>();
  const done = new Set<Node>();
  program.steps.forEach((step, i) => {
    const node = steps[i];
    if (node) for (const value of frameValues([node], done)) if (!by.has(value)) by.set(value, step.name);
  });
  const names = new Names(FIELD_WORDS);
  const fields = new Map<Node, ShaderUniform>();
  for (const node of new Set(frameValues(roots))) {
    const base =
      node.kind !== 'uniform'
        ? `${by.get(node) ?? 'frame'}_value`
        : node.payload === 'time'
          ? 'time'
          : node.payload.dial;
    const type = scalarOf(node.type) === 'b' ? irType('u', widthOf(node.type)) : node.type;
    fields.set(node, { name: names.take(base), type, node });
  }
  return fields;
}
