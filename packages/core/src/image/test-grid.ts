import type { PixelImage } from './pixels.ts';

/** 3 by 5 dot figures; each row is three bits, the left dot highest. */
const FIGURES: Record<string, readonly number[]> = {
  '0': [7, 5, 5, 5, 7],
  '1': [2, 6, 2, 2, 7],
  '2': [7, 1, 7, 4, 7],
  '3': [7, 1, 7, 1, 7],
  A: [7, 5, 7, 5, 5],
  B: [6, 5, 6, 5, 6],
  C: [7, 4, 4, 4, 7],
  D: [6, 5, 5, 5, 6],
};

const FIELDS = 4;
const FIELD = 32;

/** A grid of 4 by 4 labelled fields, 128 pixels wide: stands where a source is missing. Column A..D, row 0..3. */
export function testGrid(): PixelImage {
  const size = FIELDS * FIELD;
  const data = new Uint8Array(size * size * 4);
  const set = (x: number, y: number, r: number, g: number, b: number): void => {
    data.set([r, g, b, 255], (y * size + x) * 4);
  };
  for (let y = 0; y < size; y++) {
    for (let x = 0; x < size; x++) {
      const [column, row] = [Math.floor(x / FIELD), Math.floor(y / FIELD)];
      const line = x % FIELD === 0 || y % FIELD === 0;
      const light = (column + row) % 2 === 0 ? 96 : 64;
      if (line) set(x, y, 168, 168, 168);
      else set(x, y, light + column * 12, light, light + row * 12);
    }
  }
  for (let row = 0; row < FIELDS; row++) {
    for (let column = 0; column < FIELDS; column++) {
      [...`${'ABCD'[column] ?? ''}${String(row)}`].forEach((letter, place) => {
        (FIGURES[letter] ?? []).forEach((bits, dy) => {
          for (let dx = 0; dx < 3; dx++) {
            if (((bits >> (2 - dx)) & 1) === 0) continue;
            for (let i = 0; i < 4; i++)
              set(
                column * FIELD + 9 + place * 8 + dx * 2 + (i & 1),
                row * FIELD + 11 + dy * 2 + (i >> 1),
                220,
                220,
                220,
              );
          }
        });
      });
    }
  }
  return { width: size, height: size, data };
}
