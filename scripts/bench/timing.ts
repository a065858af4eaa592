/** The one in the middle; the upper of two. */
export const median = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[values.length >> 1]!;

/** Milliseconds that something takes. */
export function once(work: () => void): number {
  const start = performance.now();
  work();
  return performance.now() - start;
}

/** Milliseconds that something takes after a first time: the median of so many turns. */
export function timed(turns: number, work: () => void): number {
  work();
  return median(Array.from({ length: turns }, () => once(work)));
}

/** Two times taken turn by turn: the medians of both, milliseconds, and of their neighbours' ratio. */
export interface Pair {
  readonly one: number;
  readonly other: number;
  readonly ratio: number;
}

/** `turn` gives the time of one and of the other, milliseconds. */
export function paired(turns: number, turn: () => readonly [number, number]): Pair {
  turn();
  const pairs = Array.from({ length: turns }, turn);
  return {
    one: median(pairs.map(([one]) => one)),
    other: median(pairs.map(([, other]) => other)),
    ratio: median(pairs.map(([one, other]) => one / other)),
  };
}
