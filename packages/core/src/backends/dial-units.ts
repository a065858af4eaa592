import type { Dial, Loop } from '../check/program.ts';

/**
 * What leads from a dial's value in Wake's units (laps, a second, degrees, seconds) to the one that graphs take: it is
 * multiplied by `times` and divided by `over`. One of them is 1.
 */
export function internalUnits({ type }: Dial, { seconds }: Loop): { readonly times: number; readonly over: number } {
  return { times: type === 'rate' ? seconds : 1, over: type === 'angle' ? 360 : 1 };
}

/** A dial's value in Wake's units; colours as linear light. */
export function userValue(dial: Dial, value: readonly number[], loop: Loop): number[] {
  const { times, over } = internalUnits(dial, loop);
  return value.map((v) => (v * over) / times);
}
