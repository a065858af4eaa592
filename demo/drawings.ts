import { fernFront, fernPlate, fernSpores, fernSway } from './fern.ts';
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
      return i % 3 === 0
        ? cover(d - 0.022, pixel)
        : i % 3 === 1
          ? cover(abs(d - 0.018) - 0.005, pixel)
          : cover(abs(dx) + abs(dy) - 0.024, pixel);
    });
    const ink = max(
      ring(0.47, 0.012),
      ring(0.415, 0.005),
      ring(0.305, 0.005),
      marks(72, 0.425, 0.46, 0.003),
      marks(12, 0.31, 0.46, 0.005),
      ...signs,
    );
    const plate = cover(r - 0.49, pixel);
    const brushed = 0.85 + 0.15 * noise(r, turn, 96, 24, 5);
    const light = mix(0.2, 0.86, ink) * brushed;
    return [light, light * 0.82, light * 0.52, plate];
  });
}

/**
 * A lamp's housing, one to a tile. Red: the glass; green: the rim; blue: scratches of the metal. Data, not colour.
 * Tiles.
 */
function lampMask(): Drawing {
  const size = 128;
  const pixel = 1.5 / size;
  return draw(size, size, (u, v) => {
    const [x, y] = [abs(u - 0.5), abs(v - 0.5)];
    const box = (w: number, h: number, round: number): number =>
      hypot(max(x - w + round, 0), max(y - h + round, 0)) - round;
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

/** Moss as if photographed and cut out: lit from one side, and nothing meets at its edges. */
function mossCut(): Drawing {
  return draw(256, 256, (u, v) => {
    // A piece of a larger field, at a scale that does not repeat within it.
    const [x, y] = [u * 0.61 + 0.13, v * 0.61 + 0.21];
    const lumps = clouds(x, y, 12, 12, 4, 61);
    const threads = 1 - abs(noise(x + lumps * 0.03, y - lumps * 0.03, 56, 56, 67) * 2 - 1);
    const light = mix(0.5, 1.15, u) * mix(1.1, 0.8, v) * mix(0.35, 1, rise(0.25, 0.75, lumps)) * mix(0.7, 1.1, threads);
    const dry = rise(0.45, 0.75, clouds(x, y, 5, 5, 3, 71));
    return [light * mix(0.24, 0.5, dry), light * mix(0.46, 0.5, dry), light * mix(0.16, 0.22, dry), 1];
  });
}

/** Greyscale, columns of a recorder's test card: wedge, rings, bars and the crew's sign. 160 by 120 dots. */
function recordingCard(): Drawing {
  return draw(160, 120, (u, v) => {
    const [x, y] = [floor(u * 160), floor(v * 120)];
    const r = hypot(x - 80, y - 56);
    let value = 0.32;
    if (x % 16 === 0 || y % 16 === 8) value = 0.5;
    if (r < 46) value = 0.2 + 0.1 * (floor(r / 6) % 2);
    if (abs(r - 46) < 1) value = 0.9;
    if (y > 96 && y < 112) value = floor(x / 16) / 9;
    if (r < 24)
      value =
        abs(sin((x - 80) * 0.09) * 12 - (y - 56)) < 2.5 || abs(sin((x - 80) * 0.09) * 12 - (y - 68)) < 1.5
          ? 0.95
          : 0.12;
    if (y < 12 && y > 3 && x % 20 > 3) value = 0.15 + (0.75 * floor(x / 20)) / 7;
    return [value, value, value, 1];
  });
}

/** A row of colours for the moss, one pixel high: from dry to wet. */
function mossTones(): Drawing {
  return draw(64, 1, (u) => [
    mix(0.42, 0.05, u) + 0.25 * rise(0.7, 1, u),
    mix(0.4, 0.42, u) + 0.3 * rise(0.7, 1, u),
    mix(0.22, 0.16, u) + 0.3 * rise(0.7, 1, u),
    1,
  ]);
}

/** Every image of the demo, by the name its materials use. */
export const drawings: Readonly<Record<string, () => Drawing>> = {
  'mist-a.png': mist,
  'mist-normal.png': mistNormal,
  'orrery-face.png': orreryFace,
  'lamp-mask.png': lampMask,
  'ribbon-signs.png': ribbonSigns,
  'fern-plate.png': fernPlate,
  'fern-front.png': fernFront,
  'fern-sway.png': fernSway,
  'fern-spores.png': fernSpores,
  'moss-cut.png': mossCut,
  'moss-tones.png': mossTones,
  'recording-card.png': recordingCard,
};
