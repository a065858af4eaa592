// Taken out of Math once: looked up as a global each time, drawing is many times slower under a test runner.
const { floor, imul, max, min, round } = Math;
/** 8-bit pixels, rows from the top, red, green, blue, alpha. */
export interface Drawing {
  readonly width: number;
  readonly height: number;
  readonly data: Uint8Array;
}

type Rgba = readonly [number, number, number, number];

/** Draws by asking for the colour (sRGB and alpha, 0..1) at each pixel's middle; u, v in 0..1. */
export function draw(width: number, height: number, color: (u: number, v: number) => Rgba): Drawing {
  const data = new Uint8Array(width * height * 4);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const rgba = color((x + 0.5) / width, (y + 0.5) / height);
      data.set(
        rgba.map((c) => round(min(max(c, 0), 1) * 255)),
        (y * width + x) * 4,
      );
    }
  }
  return { width, height, data };
}

/** A repeatable random number 0..1 of a lattice point. */
export function random(x: number, y: number, seed: number): number {
  let h = imul(x, 0x9e3779b1) ^ imul(y, 0x85ebca77) ^ imul(seed, 0xc2b2ae3d);
  h = imul(h ^ (h >>> 16), 0x7feb352d);
  h = imul(h ^ (h >>> 15), 0x846ca68b);
  return ((h ^ (h >>> 16)) >>> 0) / 4294967296;
}

const fade = (t: number): number => t * t * t * (t * (t * 6 - 15) + 10);
export const mix = (a: number, b: number, t: number): number => a + (b - a) * t;
export const rise = (low: number, high: number, x: number): number => {
  const t = min(max((x - low) / (high - low), 0), 1);
  return t * t * (3 - 2 * t);
};

/** Value noise 0..1 that repeats every unit, with so many lattice cells along each axis. */
export function noise(u: number, v: number, across: number, down: number, seed: number): number {
  const [x, y] = [u * across, v * down];
  const [x0, y0] = [floor(x), floor(y)];
  const at = (i: number, j: number): number =>
    random(((i % across) + across) % across, ((j % down) + down) % down, seed);
  const [tx, ty] = [fade(x - x0), fade(y - y0)];
  return mix(mix(at(x0, y0), at(x0 + 1, y0), tx), mix(at(x0, y0 + 1), at(x0 + 1, y0 + 1), tx), ty);
}

/** Octaves of `noise`, each twice as fine and half as strong; 0..1. */
export function clouds(u: number, v: number, across: number, down: number, octaves: number, seed: number): number {
  let [sum, strength, total] = [0, 1, 0];
  for (let i = 0; i < octaves; i++) {
    sum += noise(u, v, across << i, down << i, seed + i) * strength;
    total += strength;
    strength /= 2;
  }
  return sum / total;
}

/** How much of a pixel of width `pixel` lies inside a shape, from its signed distance. */
export const cover = (distance: number, pixel: number): number => min(max(0.5 - distance / pixel, 0), 1);

/** A picture that is painted on, shape by shape; each touches only the pixels near it. */
export class Sheet {
  readonly #values: Float32Array;

  constructor(
    readonly size: number,
    ground: (u: number, v: number) => Rgba,
  ) {
    this.#values = new Float32Array(size * size * 4);
    for (let y = 0; y < size; y++)
      for (let x = 0; x < size; x++) this.#values.set(ground((x + 0.5) / size, (y + 0.5) / size), (y * size + x) * 4);
  }

  /**
   * A leaf from a foot in a direction (x right, y down, unit length): pointed at both ends, `width` across its middle.
   */
  leaf(
    foot: readonly [number, number],
    direction: readonly [number, number],
    length: number,
    width: number,
    color: (along: number, across: number) => Rgba,
  ): void {
    const { size } = this;
    const [dx, dy] = direction;
    const tip = [foot[0] + dx * length, foot[1] + dy * length] as const;
    const [left, right] = [min(foot[0], tip[0]) - width, max(foot[0], tip[0]) + width].map((v) => v * size) as [
      number,
      number,
    ];
    const [top, bottom] = [min(foot[1], tip[1]) - width, max(foot[1], tip[1]) + width].map((v) => v * size) as [
      number,
      number,
    ];
    for (let y = max(floor(top), 0); y <= min(floor(bottom), size - 1); y++) {
      for (let x = max(floor(left), 0); x <= min(floor(right), size - 1); x++) {
        const [px, py] = [(x + 0.5) / size - foot[0], (y + 0.5) / size - foot[1]];
        const along = (px * dx + py * dy) / length;
        if (along < 0 || along > 1) continue;
        const across = (py * dx - px * dy) / (width / 2);
        const edge = 4 * along * (1 - along) ** 0.7;
        const share = min(max(((edge - (across < 0 ? -across : across)) * width * size) / 3, 0), 1);
        if (share === 0) continue;
        const rgba = color(along, across);
        const at = (y * size + x) * 4;
        for (let c = 0; c < 3; c++) this.#values[at + c]! += (rgba[c]! - this.#values[at + c]!) * share * rgba[3];
      }
    }
  }

  drawing(): Drawing {
    const data = Uint8Array.from(this.#values, (v) => round(min(max(v, 0), 1) * 255));
    return { width: this.size, height: this.size, data };
  }
}
