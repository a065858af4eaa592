import { V128, type Code } from './encode.ts';

/** Four lanes out of the eight of two vectors, into a local. */
export function shuffled(code: Code, a: number, b: number, lanes: readonly number[]): number {
  const local = code.local(V128);
  code.get(a).get(b).shuffle(lanes).set(local);
  return local;
}

/** Four vectors as rows of a square, by columns: from a pixel a vector to a component a vector, and back. */
export function transposed(code: Code, [a, b, c, d]: readonly [number, number, number, number]): number[] {
  const [low, low2] = [shuffled(code, a, b, [0, 4, 1, 5]), shuffled(code, c, d, [0, 4, 1, 5])];
  const [high, high2] = [shuffled(code, a, b, [2, 6, 3, 7]), shuffled(code, c, d, [2, 6, 3, 7])];
  return [
    shuffled(code, low, low2, [0, 1, 4, 5]),
    shuffled(code, low, low2, [2, 3, 6, 7]),
    shuffled(code, high, high2, [0, 1, 4, 5]),
    shuffled(code, high, high2, [2, 3, 6, 7]),
  ];
}
