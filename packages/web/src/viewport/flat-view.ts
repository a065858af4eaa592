import type { FlatView } from '../gl/renderer.ts';

/** Share of the shorter side that the UV square takes in the flat view, unless told otherwise. */
export const FILL = 0.94;

/** The UV square in the middle of a canvas, with a margin. */
export function flatView(width: number, height: number, repeat: number, fill = FILL): FlatView {
  const size = Math.floor(Math.min(width, height) * fill);
  return { x: Math.floor((width - size) / 2), y: Math.floor((height - size) / 2), size, repeat };
}

/** The place on the UV square under a point of the canvas, both in CSS pixels; undefined beside it. */
export function uvAt(
  x: number,
  y: number,
  width: number,
  height: number,
  repeat: number,
): [number, number] | undefined {
  const view = flatView(width, height, repeat);
  const [u, v] = [(x - view.x) / view.size, (y - view.y) / view.size];
  return u >= 0 && u < 1 && v >= 0 && v < 1 ? [(u * repeat) % 1, (v * repeat) % 1] : undefined;
}
