import { Code, I32, V128 } from '../encode.ts';

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
  const shuffled = (a: number, b: number, lanes: readonly number[]): number => {
    const local = code.local(V128);
    code.get(a).get(b).shuffle(lanes).set(local);
    return local;
  };
  code.loop();
  for (const { planes, at } of many) {
    const [x, y, z, w] = planes.map((plane) => {
      const local = code.local(V128);
      code.get(offset).memory('v128.load', plane).set(local);
      return local;
    }) as [number, number, number | undefined, number | undefined];
    const [low, high] = [shuffled(x, y, [0, 4, 1, 5]), shuffled(x, y, [2, 6, 3, 7])];
    code.get(offset).i32(planes.length).plain('i32.mul').set(to);
    const four = ((): number[] => {
      if (z === undefined) return [low, high];
      if (w === undefined)
        return [
          shuffled(low, z, [0, 1, 4, 2]),
          shuffled(shuffled(y, z, [1, 5, 1, 5]), high, [0, 1, 4, 5]),
          shuffled(z, high, [2, 6, 7, 3]),
        ];
      const [low2, high2] = [shuffled(z, w, [0, 4, 1, 5]), shuffled(z, w, [2, 6, 3, 7])];
      return [
        shuffled(low, low2, [0, 1, 4, 5]),
        shuffled(low, low2, [2, 3, 6, 7]),
        shuffled(high, high2, [0, 1, 4, 5]),
        shuffled(high, high2, [2, 3, 6, 7]),
      ];
    })();
    four.forEach((vector, i) => {
      code
        .get(to)
        .get(vector)
        .memory('v128.store', at + i * 16);
    });
  }
  return code.nextFour(offset, 0);
}
