import type { MeshData } from '@estela/core';

/** Where the UV square lies on the canvas: the place of its upper left corner and its side, in CSS pixels. */
export interface UvFrame {
  readonly x: number;
  readonly y: number;
  readonly side: number;
}

export const fitted = (width: number, height: number): UvFrame => {
  const side = Math.max(Math.min(width, height) * 0.82, 10);
  return { x: (width - side) / 2, y: (height - side) / 2, side };
};
export const toUv = ({ x, y, side }: UvFrame, px: number, py: number): readonly [number, number] => [
  (px - x) / side,
  (py - y) / side,
];
export const toPixel = ({ x, y, side }: UvFrame, u: number, v: number): readonly [number, number] => [
  x + u * side,
  y + v * side,
];
/** Nearer or farther, a place under the pointer staying where it is. */
export function zoomed(frame: UvFrame, by: number, px: number, py: number): UvFrame {
  const side = Math.min(Math.max(frame.side * by, 40), 20_000);
  const scale = side / frame.side;
  return { x: px - (px - frame.x) * scale, y: py - (py - frame.y) * scale, side };
}

/** The vertex of a triangle that covers a place of the layout; undefined where none does. */
export function vertexAt({ uvs, indices }: MeshData, u: number, v: number): number | undefined {
  for (let t = indices.length - 3; t >= 0; t -= 3) {
    const [a, b, c] = [indices[t]!, indices[t + 1]!, indices[t + 2]!];
    const side = (p: number, q: number): number =>
      (uvs[q * 2]! - uvs[p * 2]!) * (v - uvs[p * 2 + 1]!) - (uvs[q * 2 + 1]! - uvs[p * 2 + 1]!) * (u - uvs[p * 2]!);
    const [x, y, z] = [side(a, b), side(b, c), side(c, a)];
    if ((x >= 0 && y >= 0 && z >= 0) || (x <= 0 && y <= 0 && z <= 0)) return a;
  }
  return undefined;
}
