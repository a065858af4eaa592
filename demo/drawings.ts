import { clouds, cover, draw, mix, noise, random, rise, type Drawing } from './raster.ts';

const { abs, atan2, cos, floor, hypot, max, sin } = Math;

/** Mist: pale streaks drawn out downwards; alpha is its thickness. Tiles. */
function mist(): Drawing {
  return draw(256, 256, (u, v) => {
    const bend = clouds(u, v, 4, 2, 3, 11) - 0.5;
    const streaks = clouds(u + bend * 0.12, v, 8, 2, 5, 3);
    const patches = clouds(u, v, 3, 3, 4, 29);
    const thick = rise(0.3, 0.78, streaks * 0.7 + patches * 0.42);
    const light = mix(0.5, 1, rise(0.2, 0.9, streaks)) * mix(0.75, 1, patches);
    return [light * 0.94, light * 0.98, light, thick];
  });
}

/** Slopes of the mist, as a tangent-space normal map, y up. Tiles. */
function mistNormal(): Drawing {
  const height = (u: number, v: number): number => clouds(u, v, 6, 4, 4, 53);
  return draw(256, 256, (u, v) => {
    const e = 1 / 256;
    const dx = (height(u + e, v) - height(u - e, v)) * 6;
    const dy = (height(u, v + e) - height(u, v - e)) * 6;
    const length = hypot(dx, dy, 1);
    return [0.5 - dx / length / 2, 0.5 + dy / length / 2, 0.5 + 0.5 / length, 1];
  });
}

/** The orrery's brass plate: rings, degree marks and twelve signs, on a clear ground. */
function orreryFace(): Drawing {
  const size = 256;
  const pixel = 1.5 / size;
  return draw(size, size, (u, v) => {
    const [x, y] = [u - 0.5, v - 0.5];
    const r = hypot(x, y);
    const turn = (atan2(-y, x) / (2 * Math.PI) + 1) % 1;
    const ring = (at: number, width: number): number => cover(abs(r - at) - width / 2, pixel);
    const marks = (count: number, from: number, to: number, width: number): number => {
      const away = abs(((turn * count + 0.5) % 1) - 0.5) / count;
      return cover(max(away * 2 * Math.PI * r - width / 2, from - r, r - to), pixel);
    };
    const signs = Array.from({ length: 12 }, (_, i) => {
      const a = ((i + 0.5) / 12) * 2 * Math.PI;
      const [dx, dy] = [x - cos(a) * 0.36, y + sin(a) * 0.36];
      const d = hypot(dx, dy);
      return i % 3 === 0 ? cover(d - 0.022, pixel) : i % 3 === 1 ? cover(abs(d - 0.018) - 0.005, pixel) : cover(abs(dx) + abs(dy) - 0.024, pixel);
    });
    const ink = max(ring(0.47, 0.012), ring(0.415, 0.005), ring(0.305, 0.005), marks(72, 0.425, 0.46, 0.003), marks(12, 0.31, 0.46, 0.005), ...signs);
    const plate = cover(r - 0.49, pixel);
    const brushed = 0.85 + 0.15 * noise(r, turn, 96, 24, 5);
    const light = mix(0.2, 0.86, ink) * brushed;
    return [light, light * 0.82, light * 0.52, plate];
  });
}

/** A lamp's housing, one to a tile. Red: the glass; green: the rim; blue: scratches of the metal. Data, not colour. Tiles. */
function lampMask(): Drawing {
  const size = 128;
  const pixel = 1.5 / size;
  return draw(size, size, (u, v) => {
    const [x, y] = [abs(u - 0.5), abs(v - 0.5)];
    const box = (w: number, h: number, round: number): number => hypot(max(x - w + round, 0), max(y - h + round, 0)) - round;
    const glass = cover(box(0.34, 0.2, 0.18), pixel);
    const rim = max(cover(abs(box(0.38, 0.24, 0.2)) - 0.02, pixel), cover(hypot(x - 0.44, y - 0.42) - 0.022, pixel));
    const scratches = noise(u, v, 64, 4, 7) * 0.6 + clouds(u, v, 8, 8, 3, 17) * 0.4;
    return [glass, rim, scratches, 1];
  });
}

/** Signs of the notice ribbon, eight dots high: leaf, drop, sun, hatch, arrow, seed, key, wave. Our own. */
const SIGNS = [
  '...###.. ..##.##. .##..#.# #...#..# #..#..#. #.#..#.. ###.#... ####....',
  '...##... ...##... ..####.. .######. .######. ##.##### .######. ..####..',
  '#..##..# .#....#. ..####.. #.####.# #.####.# ..####.. .#....#. #..##..#',
  '######## #......# #.####.# #.#..#.# #.#..#.# #.####.# #......# ########',
  '...#.... ...##... #######. ######## #######. ...##... ...#.... ........',
  '..####.. .##..##. ##.##.## ##.##.## ##.##.## .##..##. ..####.. ...##...',
  '.###.... #...#... #...#### #...#.#. .###..#. ........ ##.##.## ........',
  '........ .##...## #..#.#.. #...#... ........ .##...## #..#.#.. #...#...',
].map((rows) => rows.split(' '));

/** A line of eight signs, 96 by 16 dots, made to be read by its nearest texel. Red: the signs. Tiles across. */
function ribbonSigns(): Drawing {
  return draw(96, 16, (u, v) => {
    const [x, y] = [floor(u * 96), floor(v * 16)];
    const lit = y >= 4 && y < 12 && x % 12 >= 2 && x % 12 < 10 && SIGNS[floor(x / 12)]?.[y - 4]?.[(x % 12) - 2] === '#';
    const rail = y === 1 || y === 14 ? 0.35 + 0.3 * random(x, y, 3) : 0;
    const value = lit ? 1 : rail;
    return [value, value, value, 1];
  });
}

/** Every image of the demo, by the name its materials use. */
export const drawings: Readonly<Record<string, () => Drawing>> = {
  'mist-a.png': mist,
  'mist-normal.png': mistNormal,
  'orrery-face.png': orreryFace,
  'lamp-mask.png': lampMask,
  'ribbon-signs.png': ribbonSigns,
};
