import { Code, I32, V128 } from '../encode.ts';
import { shuffled, transposed } from '../lanes.ts';

/** A plane of each component of a result, and where its pixels are put together. */
export interface Woven {
  readonly planes: readonly number[];
  readonly at: number;
}

/** Puts rows of pixels together, component beside component; `bytes` as of a plane. Results of one component are left alone. */
export function weave(results: readonly Woven[]): Code {
  const code = new Code([I32], []);
  const [offset, to] = [code.local(I32), code.local(I32)];
  const many = results.filter(({ planes }) => planes.length > 1);
  if (many.length === 0) return code;
  code.loop();
  for (const { planes, at } of many) {
    const [x, y, z, w] = planes.map((plane) => {
      const local = code.local(V128);
      code.get(offset).memory('v128.load', plane).set(local);
      return local;
    }) as [number, number, number | undefined, number | undefined];
    code.get(offset).i32(planes.length).plain('i32.mul').set(to);
    const four = z !== undefined && w !== undefined ? transposed(code, [x, y, z, w]) : pairsOrTriples(code, x, y, z);
    four.forEach((vector, i) => {
      code
        .get(to)
        .get(vector)
        .memory('v128.store', at + i * 16);
    });
  }
  return code.nextFour(offset, 0);
}

/** The vectors of four pixels of two components, or of three. */
function pairsOrTriples(code: Code, x: number, y: number, z: number | undefined): number[] {
  const [low, high] = [shuffled(code, x, y, [0, 4, 1, 5]), shuffled(code, x, y, [2, 6, 3, 7])];
  if (z === undefined) return [low, high];
  return [
    shuffled(code, low, z, [0, 1, 4, 2]),
    shuffled(code, shuffled(code, y, z, [1, 5, 1, 5]), high, [0, 1, 4, 5]),
    shuffled(code, z, high, [2, 6, 7, 3]),
  ];
}
