import { lapsText, type Movement } from '@estela/core';

/** Width and height that lanes are drawn in, before they are stretched to their place. */
export const LANE_WIDTH = 960;
export const LANE_HEIGHT = 100;

const y = (value: number): string => ((1 - value) * LANE_HEIGHT).toFixed(1);

/**
 * The line of a motion over the loop as an SVG path. Where a period starts over the line is lifted; a time that
 * stands still goes in steps.
 */
export function lanePath({ curve, lane }: Pick<Movement, 'curve' | 'lane'>): string {
  const last = curve.length - 1;
  const x = (i: number): string => ((i / last) * LANE_WIDTH).toFixed(1);
  return curve
    .map((value, i) => {
      const before = curve[i - 1];
      if (before === undefined) return `M${x(i)} ${y(value)}`;
      if (lane === 'steps') return `H${x(i)}V${y(value)}`;
      return `${lane === 'period' && Math.abs(value - before) > 0.5 ? 'M' : 'L'}${x(i)} ${y(value)}`;
    })
    .join('');
}

/**
 * Where a lane ends, and where it would have to: heights from the bottom, 0..1. A way that has just come round ends at
 * the top.
 */
export function laneEnds({ curve, lane }: Pick<Movement, 'curve' | 'lane'>): {
  readonly start: number;
  readonly end: number;
} {
  const [start = 0.5, end = 0.5] = [curve[0], curve.at(-1)];
  const before = curve.at(-2) ?? end;
  return { start, end: lane === 'period' && Math.abs(end - before) > 0.5 ? (before > 0.5 ? 1 : 0) : end };
}

const figure = (v: number): string => String(Number(v.toPrecision(3)));

/** How a motion comes round, in words: "2 laps, 3 s". */
export function periodText({ laps }: Pick<Movement, 'laps'>, seconds: number): string {
  if (laps === undefined) return 'over time';
  if (laps === 0) return 'does not move';
  return `${lapsText(figure(laps))}, ${figure(seconds / Math.abs(laps))} s`;
}

/** Seconds between two labelled ticks of a ruler so long that about `most` of them fit. */
export function tickStep(seconds: number, most: number): number {
  const least = seconds / most;
  const size = 10 ** Math.floor(Math.log10(least));
  return ([1, 2, 5, 10].find((k) => k * size >= least - 1e-9) ?? 10) * size;
}
