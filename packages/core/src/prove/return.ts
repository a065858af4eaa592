import type { Dial } from '../check/program.ts';
import { fractionOf } from './exact.ts';
import { movementsOf } from './motion.ts';
import type { Proof } from './proof.ts';
import { Shifts } from './shifts.ts';

/** When all outputs are what they were. */
export interface Return {
  /** After so many loops, and not before by the rates that can be counted. */
  readonly loops: number;
  readonly seconds: number;
  /** Only while these dials stay as they are; every other may be turned. */
  readonly dials: readonly Dial[];
}

/** Most loops that are counted. */
const MOST = 10_000;

/**
 * The common period of all that moves in the present setting, proven; undefined where none is known: rates without one,
 * or more than 10,000 loops.
 */
export function returnOf(proof: Proof): Return | undefined {
  const { graph, program, values } = proof;
  const holds = (loops: number, dials: ReadonlyMap<string, readonly number[]>): boolean => {
    const shifts = new Shifts(graph, 'loop', dials, loops);
    return [...graph.outputs.values()].every((node) => shifts.returns(node));
  };
  let loops = 1;
  if (!holds(1, values.dials)) {
    let common = fractionOf(1)!;
    for (const { laps } of movementsOf(proof, [])) {
      const exact = laps === undefined ? undefined : fractionOf(laps);
      if (exact) common = common.lcm(Number(exact.d));
      if (common.valueOf() > MOST) return undefined;
    }
    loops = common.valueOf();
    if (loops === 1 || !holds(loops, values.dials)) return undefined;
  }
  const without = (left: readonly Dial[]): Map<string, readonly number[]> =>
    new Map([...values.dials].filter(([name]) => !left.some((d) => d.name === name)));
  const needed = program.dials.filter((dial) => !holds(loops, without([dial])));
  const free = program.dials.filter((dial) => !needed.includes(dial));
  // Two that may be turned one by one may not be together.
  const dials = holds(loops, without(free)) ? needed : program.dials;
  return { loops, seconds: loops * program.loop.seconds, dials };
}
