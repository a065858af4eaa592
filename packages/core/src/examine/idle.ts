import type { Program } from '../check/program.ts';
import type { SettingValues } from '../check/values.ts';
import { compile } from '../compile.ts';
import { inOrder } from '../ir/node.ts';
import type { Graph } from '../lower/lower.ts';

/** A dial that no output depends on as the switches stand. */
export interface IdleDial {
  readonly name: string;
  /** The switch that, turned to `on`, lets it have an effect; undefined where no single switch does. */
  readonly back: { readonly name: string; readonly on: boolean } | undefined;
}

/** Names of the dials that outputs depend on. */
function dialsIn({ outputs }: Graph): Set<string> {
  const names = new Set<string>();
  for (const node of inOrder([...outputs.values()]))
    if (node.kind === 'uniform' && node.payload !== 'time') names.add(node.payload.dial);
  return names;
}

/** The dials without effect in a setting, told from its graph and, for each switch, from that with it turned. */
export function idleDials(program: Program, values: SettingValues, graph: Graph): IdleDial[] {
  // A graph at its limit, or without outputs, says nothing.
  if (graph.builder.full || graph.outputs.size === 0) return [];
  const used = dialsIn(graph);
  const idle = program.dials.filter((d) => !used.has(d.name));
  if (idle.length === 0) return [];
  const turned = program.switches.map(({ name }) => {
    const on = values.switches.get(name) !== true;
    const switches = new Map(values.switches).set(name, on);
    return { name, on, used: dialsIn(compile(program, { values: { ...values, switches } }).graph) };
  });
  return idle.map(({ name }) => {
    const by = turned.find((t) => t.used.has(name));
    return { name, back: by && { name: by.name, on: by.on } };
  });
}
