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

/** The triangle that covers a place of the layout, the uppermost; undefined where none does. */
export function triangleAt({ uvs, indices }: MeshData, u: number, v: number): number | undefined {
  for (let t = indices.length - 3; t >= 0; t -= 3) {
    const [a, b, c] = [indices[t]!, indices[t + 1]!, indices[t + 2]!];
    const side = (p: number, q: number): number =>
      (uvs[q * 2]! - uvs[p * 2]!) * (v - uvs[p * 2 + 1]!) - (uvs[q * 2 + 1]! - uvs[p * 2 + 1]!) * (u - uvs[p * 2]!);
    const [x, y, z] = [side(a, b), side(b, c), side(c, a)];
    if ((x >= 0 && y >= 0 && z >= 0) || (x <= 0 && y <= 0 && z <= 0)) return t / 3;
  }
  return undefined;
}

/** The triangles whose middles lie in a rectangle of the layout. */
export function trianglesWithin(
  { uvs, indices }: MeshData,
  [u0, v0]: readonly [number, number],
  [u1, v1]: readonly [number, number],
): number[] {
  const [left, right] = [Math.min(u0, u1), Math.max(u0, u1)];
  const [top, bottom] = [Math.min(v0, v1), Math.max(v0, v1)];
  const found: number[] = [];
  for (let t = 0; t < indices.length / 3; t++) {
    const [a, b, c] = [indices[t * 3]! * 2, indices[t * 3 + 1]! * 2, indices[t * 3 + 2]! * 2];
    const [u, v] = [(uvs[a]! + uvs[b]! + uvs[c]!) / 3, (uvs[a + 1]! + uvs[b + 1]! + uvs[c + 1]!) / 3];
    if (u >= left && u <= right && v >= top && v <= bottom) found.push(t);
  }
  return found;
}
