import type { Program } from '../check/program.ts';
import { settingValues } from '../check/values.ts';
import type { ImageSource } from '../image/pixels.ts';
import { lower, type Graph } from '../ir/lower.ts';
import type { Node } from '../ir/node.ts';
import { findWitnesses, type Shift, type Witness } from '../measure/witness.ts';
import { Shifts, type Setting } from './shifts.ts';

export const SHIFTS: readonly Shift[] = ['loop', 'tile_u', 'tile_v'];

/**
 * `always`: proven for every setting of dials and switches; `present`: for the values given; `open`: a witness was found;
 * `unproven`: neither.
 */
export type Verdict = 'always' | 'present' | 'open' | 'unproven';

export interface Verdicts {
  readonly verdicts: Readonly<Record<Shift, Verdict>>;
  readonly witnesses: Partial<Record<Shift, Witness>>;
}

/** Most switches whose settings are all gone through. */
const SWITCH_LIMIT = 6;

/** Every setting of the switches; undefined where there are too many to go through. */
function switchSettings({ switches }: Program): ReadonlyMap<string, boolean>[] | undefined {
  if (switches.length > SWITCH_LIMIT) return undefined;
  return Array.from({ length: 2 ** switches.length }, (_, bits) => new Map(switches.map((s, i) => [s.name, (bits >> i) % 2 === 1])));
}

const allReturn = (graph: Graph, roots: readonly Node[], shift: Shift, setting: Setting): boolean => {
  const shifts = new Shifts(graph, shift, setting);
  return roots.every((root) => shifts.returns(root));
};

/** Whether a material returns after its loop, and meets itself a tile on: its outputs together, in a variant or the base. */
export function materialVerdicts(program: Program, variant?: string, images?: ImageSource): Verdicts {
  const { dials, switches } = settingValues(program, variant);
  const graph = lower(program, switches);
  const graphs = switchSettings(program)?.map((s) => lower(program, s));
  const proven = (shift: Shift): Verdict | undefined => {
    if (graphs?.every((g) => allReturn(g, [...g.outputs.values()], shift, { kind: 'any' }))) return 'always';
    return allReturn(graph, [...graph.outputs.values()], shift, { kind: 'present', dials }) ? 'present' : undefined;
  };
  const found = Object.fromEntries(SHIFTS.map((s) => [s, proven(s)])) as Record<Shift, Verdict | undefined>;
  // Only what is not proven is looked for.
  const witnesses = SHIFTS.every((s) => found[s]) ? {} : findWitnesses(graph, dials, images);
  const verdicts = Object.fromEntries(SHIFTS.map((s) => [s, found[s] ?? (witnesses[s] ? 'open' : 'unproven')])) as Record<Shift, Verdict>;
  return { verdicts, witnesses: Object.fromEntries(Object.entries(witnesses).filter(([s]) => verdicts[s as Shift] === 'open')) };
}
