import type { Program } from '../check/program.ts';
import type { ImageSource } from '../image/pixels.ts';
import type { Node } from '../ir/node.ts';
import { SHIFTS, type Shift } from '../measure/subject.ts';
import { ANYWHERE, CLOSED_WITHIN, findWitnesses, type Watched, type Witness } from '../measure/witness.ts';
import { Proof, type Asked } from './proof.ts';

/**
 * `always`: proven for every setting of dials and switches; `present`: for the values given; `open`: a witness was
 * found;
 * `unproven`: neither.
 */
export type Verdict = 'always' | 'present' | 'open' | 'unproven';
/** Whether it is proven, at every setting or at the present one. */
export const isProven = (verdict: Verdict | undefined): boolean => verdict === 'always' || verdict === 'present';
type Found = Partial<Record<Shift, Witness>>;
export type ByShift<T> = Readonly<Record<Shift, T>>;

export interface Verdicts {
  readonly verdicts: ByShift<Verdict>;
  /** Of what is open; an output's channel beside it. */
  readonly witnesses: Partial<ByShift<Witness & { readonly output?: string }>>;
}

/** Verdicts of a material's outputs and steps, and of its outputs together. */
export interface AllVerdicts {
  readonly whole: Verdicts;
  readonly outputs: ReadonlyMap<string, Verdicts>;
  /** By step index. */
  readonly steps: readonly Verdicts[];
}

const RANK: Record<Verdict, number> = { always: 0, present: 1, unproven: 2, open: 3 };
const worst = (verdicts: readonly Verdict[]): Verdict =>
  verdicts.reduce((a, b) => (RANK[b] > RANK[a] ? b : a), 'always');
const byShift = <T>(of: (shift: Shift) => T): ByShift<T> => ({
  loop: of('loop'),
  tile_u: of('tile_u'),
  tile_v: of('tile_v'),
});

function wholeOf(outputs: ReadonlyMap<string, Verdicts>): Verdicts {
  const all = [...outputs];
  const witnesses: Partial<Record<Shift, Witness & { output?: string }>> = {};
  for (const [output, { witnesses: found }] of all)
    for (const shift of SHIFTS) {
      const witness = found[shift];
      if (witness && witness.difference > (witnesses[shift]?.difference ?? 0))
        witnesses[shift] = { ...witness, output };
    }
  return { verdicts: byShift((s) => worst(all.map(([, v]) => v.verdicts[s]))), witnesses };
}

/** What the proof alone says: what it cannot prove is `unproven` until witnesses are looked for. */
export function provenVerdicts(proof: Proof): AllVerdicts {
  const of = (asked: Asked): Verdicts => ({
    verdicts: byShift((s) => proof.proven(asked, s) ?? 'unproven'),
    witnesses: {},
  });
  const outputs = new Map([...proof.graph.outputs.keys()].map((name) => [name, of(name)]));
  return { whole: wholeOf(outputs), outputs, steps: proof.program.steps.map((s) => of(s.index)) };
}

/**
 * The same with witnesses for what is not proven: of what moves by a known number anywhere, of the rest where evaluation
 * finds one. Images that are not given are test grids.
 */
export function witnessedVerdicts(proof: Proof, proven: AllVerdicts, images?: ImageSource): AllVerdicts {
  const { graph, program, values } = proof;
  const watched: (Watched & { readonly tell: (found: Found) => void })[] = [];
  const look = (asked: Asked, node: Node, before: Verdicts, wraps: boolean, tell: (now: Verdicts) => void): void => {
    const unproven = SHIFTS.filter((s) => before.verdicts[s] === 'unproven');
    if (unproven.length === 0) return;
    const known: Found = {};
    for (const shift of unproven) {
      const difference = proof.distance(asked, shift) ?? 0;
      if (difference > CLOSED_WITHIN) known[shift] = { ...ANYWHERE, difference };
    }
    const shifts = unproven.filter((s) => !known[s]);
    const told = (found: Found): void => {
      const witnesses = { ...known, ...found };
      tell({ verdicts: byShift((s) => (witnesses[s] ? 'open' : before.verdicts[s])), witnesses });
    };
    if (shifts.length > 0) watched.push({ node, wraps, shifts, tell: told });
    else told({});
  };
  const outputs = new Map(proven.outputs);
  for (const [name, v] of proven.outputs)
    look(name, graph.outputs.get(name)!, v, false, (now) => outputs.set(name, now));
  const steps = [...proven.steps];
  for (const { index, off, type } of program.steps)
    if (!off) look(index, graph.steps[index]!, steps[index]!, type === 'vec2', (now) => (steps[index] = now));
  findWitnesses(watched, program.loop.seconds, values.dials, images).forEach((found, i) => {
    watched[i]!.tell(found);
  });
  return { whole: wholeOf(outputs), outputs, steps };
}

/** Of a material in a variant or the base: its outputs together. */
export const materialVerdicts = (program: Program, variant?: string, images?: ImageSource): Verdicts =>
  wholeVerdicts(new Proof(program, variant), images);

/** Whether a material returns after its loop, and meets itself a tile on: its outputs together. */
export function wholeVerdicts(proof: Proof, images?: ImageSource): Verdicts {
  const proven = provenVerdicts(proof);
  // Only what is not proven is looked for.
  if (SHIFTS.every((s) => proven.whole.verdicts[s] !== 'unproven')) return proven.whole;
  return witnessedVerdicts(proof, proven, images).whole;
}
