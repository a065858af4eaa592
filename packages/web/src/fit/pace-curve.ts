import { paceOf, speedThrough, type Axis, type MeshData, type Part } from '@estela/core';

/** Points by which a pace is drawn, at equal shares of the way. */
export const POINTS = 5;

/** How fast a scroll runs along the way: metres a UV unit by metres along. */
export interface Measured {
  readonly series: readonly { readonly arcLength: number; readonly speed: number }[];
  /** The whole way, in metres. */
  readonly length: number;
  /** What the part takes of the axis, in UV units. */
  readonly extent: number;
}

export function measuredPace(mesh: MeshData, part: Part, axis: Axis): Measured | undefined {
  const pace = paceOf(mesh, part, axis, 96);
  if (!pace) return undefined;
  const { metres, from, to } = pace;
  const step = (to - from) / metres.length;
  let arcLength = 0;
  const series: { arcLength: number; speed: number }[] = [];
  for (const speed of metres) {
    series.push({ arcLength: arcLength + (speed * step) / 2, speed });
    arcLength += speed * step;
  }
  return { series, length: arcLength, extent: to - from };
}

/** The measured speed at equal shares of the way, as relative speeds about 1. */
export function pointsOf({ series, length }: Measured): number[] {
  const mean = length / Math.max(series.length, 1);
  const at = (arcLength: number): number => {
    const i = series.findIndex((s) => s.arcLength >= arcLength);
    if (i <= 0) return (i === 0 ? series[0] : series.at(-1))?.speed ?? 1;
    const [a, b] = [series[i - 1]!, series[i]!];
    return a.speed + ((b.speed - a.speed) * (arcLength - a.arcLength)) / Math.max(b.arcLength - a.arcLength, 1e-9);
  };
  const speeds = Array.from({ length: POINTS }, (_, i) => at((i / (POINTS - 1)) * length));
  const middle = speeds.reduce((a, b) => a + b, 0) / POINTS || mean || 1;
  return speeds.map((s) => Math.min(Math.max(s / middle, 0.05), 20));
}

/**
 * Metres a UV unit that a relative speed of 1 stands for, where the curve goes through such points: the whole way has
 * to fit in the extent.
 */
export function unitOf({ length, extent }: Measured, points: readonly number[]): number {
  const speed = speedThrough(points);
  const count = 256;
  let slowness = 0;
  for (let i = 0; i < count; i++) slowness += 1 / Math.max(speed((i + 0.5) / count), 1e-3) / count;
  return (length / Math.max(extent, 1e-9)) * slowness;
}
