/** Three numbers: metres, y up. */
export type Vector = readonly [number, number, number];

export const plus = (a: Vector, b: Vector): Vector => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
export const minus = (a: Vector, b: Vector): Vector => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
export const times = (a: Vector, by: number): Vector => [a[0] * by, a[1] * by, a[2] * by];
export const dot = (a: Vector, b: Vector): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
export const cross = (a: Vector, b: Vector): Vector => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
export const length = (a: Vector): number => Math.hypot(a[0], a[1], a[2]);
/** Of length 1; a vector without length gives `otherwise`. */
export const unit = (a: Vector, otherwise: Vector = [0, 0, 1]): Vector =>
  length(a) > 1e-12 ? times(a, 1 / length(a)) : otherwise;
