/** The one in the middle; the upper of two. */
export const median = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[values.length >> 1]!;

/** Milliseconds that something takes. */
export function once(work: () => void): number {
  const start = performance.now();
  work();
  return performance.now() - start;
}

/** Milliseconds of processor time of this process that something takes. */
export function processorTime(work: () => void): number {
  const before = process.cpuUsage();
  work();
  const { user, system } = process.cpuUsage(before);
  return (user + system) / 1000;
}

/** Milliseconds that something takes after a first time: the median of so many turns. */
export function timed(turns: number, work: () => void): number {
  work();
  return median(Array.from({ length: turns }, () => once(work)));
}

/** Two times taken turn by turn: the medians of both, and of the ratio of neighbours, one by the other. */
export interface Pair {
  readonly one: number;
  readonly other: number;
  readonly ratio: number;
  /** The least and the greatest of those ratios. */
  readonly spread: readonly [number, number];
}

export function pairOf(turns: readonly (readonly [number, number])[]): Pair {
  const ratios = turns.map(([one, other]) => one / other);
  return {
    one: median(turns.map(([one]) => one)),
    other: median(turns.map(([, other]) => other)),
    ratio: median(ratios),
    spread: [Math.min(...ratios), Math.max(...ratios)],
  };
}

/** `turn` gives the time of one and of the other; the first turns are not counted. */
export function paired(count: number, turn: (i: number) => readonly [number, number], warm = 1): Pair {
  for (let i = 0; i < warm; i++) turn(i);
  return pairOf(Array.from({ length: count }, (_, i) => turn(i)));
}
