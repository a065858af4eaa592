import { hexOfColor } from '../ops/value-type.ts';
import { literalText } from '../check/literals.ts';
import type { Program } from '../check/program.ts';

/** Numbers 0..1 from a seed, the same on every machine (mulberry32, T. Ettinger, 2017, public domain). */
function numbersFrom(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = Math.imul(state ^ (state >>> 15), state | 1);
    t = (t + Math.imul(t ^ (t >>> 7), t | 61)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
  };
}

/**
 * Literals for the dials that have a range, evenly spread over it and in its steps; the same seed gives the same ones.
 */
export function randomValues(program: Program, seed: number): Map<string, string> {
  const next = numbersFrom(seed);
  return new Map(
    program.dials.flatMap((dial) => {
      const { low, high, step } = dial;
      if (low === undefined || high === undefined) return [];
      const value = dial.value.map(() => {
        const share = next();
        if (step === undefined) return Number((low + share * (high - low)).toPrecision(4));
        return low + Math.floor(share * (Math.floor((high - low) / step + 1e-9) + 1)) * step;
      });
      return [[dial.name, literalText(dial.type, value, program.loop, hexOfColor)] as const];
    }),
  );
}
