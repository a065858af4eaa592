import { clouds, mix, random, rise, Sheet, type Drawing } from './raster.ts';

const { abs, atan2, cos, hypot, PI, sin } = Math;
const SIZE = 512;

/** A frond: where its foot is, which way it leans, how long it is and how far it bends over. */
interface Frond {
  readonly foot: readonly [number, number];
  readonly angle: number;
  readonly length: number;
  readonly bend: number;
}

const FRONT: readonly Frond[] = [
  { foot: [0.5, 0.98], angle: -0.08, length: 0.74, bend: 0.5 },
  { foot: [0.49, 0.98], angle: -0.6, length: 0.62, bend: -0.8 },
  { foot: [0.51, 0.98], angle: 0.52, length: 0.66, bend: 0.9 },
];
const BACK: readonly Frond[] = [
  { foot: [0.48, 1], angle: -0.32, length: 0.86, bend: -0.4 },
  { foot: [0.53, 1], angle: 0.3, length: 0.84, bend: 0.35 },
  { foot: [0.46, 1], angle: -1.0, length: 0.56, bend: -0.7 },
  { foot: [0.55, 1], angle: 0.98, length: 0.58, bend: 0.7 },
];

/** Goes up a frond and asks for each pair of leaflets: place, direction, length and the share of the way. */
function leaflets(
  { foot, angle, length, bend }: Frond,
  leaf: (at: [number, number], direction: [number, number], size: number, along: number) => void,
): void {
  const count = 26;
  let [x, y] = foot;
  for (let i = 0; i < count; i++) {
    const along = i / count;
    const lean = angle + bend * along * along;
    x += (sin(lean) * length) / count;
    y -= (cos(lean) * length) / count;
    const size = length * 0.27 * sin(PI * (0.12 + 0.86 * along)) ** 0.8;
    for (const side of [-1, 1]) {
      const turn = lean + side * (1.25 - along * 0.5);
      leaf([x, y], [sin(turn), -cos(turn)], size, along);
    }
    leaf([x, y], [sin(lean), -cos(lean)], (length / count) * 1.8, along);
  }
}

type Tone = (along: number, inLeaf: number, across: number) => readonly [number, number, number, number];
function paint(sheet: Sheet, fronds: readonly Frond[], tone: Tone): void {
  for (const frond of fronds)
    leaflets(frond, (at, direction, size, along) => {
      sheet.leaf(at, direction, size, size * 0.15, (inLeaf, across) => tone(along, inLeaf, across));
    });
}

/** The plate: a fern before a pale round window of the greenhouse. */
export function fernPlate(): Drawing {
  const sheet = new Sheet(SIZE, (u, v) => {
    const r = hypot(u - 0.5, v - 0.42);
    const window = rise(0.37, 0.355, r);
    const bars =
      rise(0.006, 0.003, abs(u - 0.5)) + rise(0.006, 0.003, abs(v - 0.42)) + rise(0.012, 0.006, abs(r - 0.363));
    const sky = mix(0.5, 0.86, rise(0.1, 0.75, v)) * mix(0.9, 1.05, clouds(u, v, 3, 5, 4, 21));
    const wall = 0.09 + 0.05 * clouds(u, v, 6, 6, 4, 33);
    const light = mix(wall, sky, window);
    const dark = 1 - 0.75 * (bars > 1 ? 1 : bars) * rise(0.375, 0.36, r);
    return [light * dark * 0.96, light * dark * mix(1, 1.02, window), light * dark * mix(0.95, 0.9, window), 1];
  });
  paint(sheet, BACK, (along, inLeaf) => [0.07 + 0.05 * inLeaf, 0.15 + 0.1 * along, 0.12 + 0.03 * inLeaf, 0.95]);
  paint(sheet, FRONT, (along, inLeaf, across) => {
    const vein = rise(0.16, 0.05, abs(across));
    return [
      0.12 + 0.16 * along + vein * 0.12,
      0.3 + 0.26 * along + inLeaf * 0.08 + vein * 0.12,
      0.13 + 0.06 * inLeaf,
      1,
    ];
  });
  return sheet.drawing();
}

/** White where the front fronds are. */
export function fernFront(): Drawing {
  const sheet = new Sheet(SIZE, () => [0, 0, 0, 1]);
  paint(sheet, FRONT, () => [1, 1, 1, 1]);
  return sheet.drawing();
}

/** How loose each place is: fronds more toward their tips, the wall not at all. */
export function fernSway(): Drawing {
  const sheet = new Sheet(SIZE, () => [0, 0, 0, 1]);
  for (const fronds of [BACK, FRONT])
    paint(sheet, fronds, (along, inLeaf) => {
      const loose = along * 0.75 + inLeaf * 0.25;
      return [loose, loose, loose, 1];
    });
  return sheet.drawing();
}

/** Spore cases: small dots under the leaflets of the front fronds. */
export function fernSpores(): Drawing {
  const sheet = new Sheet(SIZE, () => [0, 0, 0, 1]);
  let n = 0;
  for (const frond of FRONT)
    leaflets(frond, (at, [dx, dy], size) => {
      for (const part of [0.3, 0.5, 0.68]) {
        const seen = 0.4 + 0.6 * random(n++, 3, 9);
        const side = atan2(dy, dx) > -PI / 2 ? 1 : -1;
        const foot = [
          at[0] + dx * size * part - dy * side * size * 0.03,
          at[1] + dy * size * part + dx * side * size * 0.03,
        ] as const;
        sheet.leaf(foot, [1, 0], 0.008, 0.008, () => [seen, seen, seen, 1]);
      }
    });
  return sheet.drawing();
}
