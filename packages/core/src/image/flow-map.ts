import { blankImage, type PixelImage } from './pixels.ts';

/** One stroke of a brush: it paints the direction in which it was drawn. Places and radius in UV units, v down. */
export interface FlowStroke {
  readonly points: readonly { readonly x: number; readonly y: number }[];
  readonly radius: number;
  /** 0 wipes out what is below, 1 is the full drift of `stream`. */
  readonly strength: number;
}

/** What a flow map is painted from, and stays editable by. */
export interface FlowDrawing {
  readonly strokes: readonly FlowStroke[];
  /** How far directions are spread afterwards, in UV units. */
  readonly smooth: number;
  /** Pixels along each side of the map. */
  readonly size: number;
}

/**
 * Paints a flow map, 16 bits a channel, as `stream` reads it: red is the drift to the right, green upwards, both
 * 0.5 where nothing moves, blue how strong it is. Later strokes cover earlier ones, most in their middle, by
 * (1 - (d / r)^2)^2. Strokes and smoothing go round the edges, so that the map tiles.
 */
export function paintFlowMap({ strokes, smooth, size }: FlowDrawing): PixelImage {
  const fields: [Float32Array, Float32Array] = [new Float32Array(size * size), new Float32Array(size * size)];
  for (const stroke of strokes) paint(fields, stroke, size);
  // Three box blurs are close to a Gaussian of standard deviation r (Wells 1986).
  const reach = Math.round(smooth * size);
  if (reach > 0) for (const field of fields) for (let pass = 0; pass < 3; pass++) blur(field, size, reach);
  const image = blankImage(size, size, 16);
  for (let i = 0; i < size * size; i++) {
    const [x, y] = [fields[0][i]!, fields[1][i]!];
    const stored = (value: number): number => Math.round(Math.min(Math.max(value, 0), 1) * 65535);
    image.data.set([stored(0.5 + x / 2), stored(0.5 + y / 2), stored(Math.hypot(x, y)), 65535], i * 4);
  }
  return image;
}

function paint(
  fields: readonly [Float32Array, Float32Array],
  { points, radius, strength }: FlowStroke,
  size: number,
): void {
  /** The largest share of this stroke at each pixel it touches, and the direction there. */
  const touched = new Map<number, { share: number; x: number; y: number }>();
  for (let s = 0; s + 1 < points.length; s++) {
    const [a, b] = [points[s]!, points[s + 1]!];
    const [dx, dy] = [b.x - a.x, b.y - a.y];
    const length = Math.hypot(dx, dy);
    if (length < 1e-9) continue;
    const range = (p: number, q: number): [number, number] => [
      Math.floor((Math.min(p, q) - radius) * size),
      Math.ceil((Math.max(p, q) + radius) * size),
    ];
    const [[left, right], [top, bottom]] = [range(a.x, b.x), range(a.y, b.y)];
    for (let y = top; y <= bottom; y++) {
      for (let x = left; x <= right; x++) {
        const [px, py] = [(x + 0.5) / size - a.x, (y + 0.5) / size - a.y];
        const t = Math.min(Math.max((px * dx + py * dy) / (length * length), 0), 1);
        const d = Math.hypot(px - dx * t, py - dy * t) / radius;
        if (d >= 1) continue;
        const share = (1 - d * d) ** 2;
        const at = (((y % size) + size) % size) * size + (((x % size) + size) % size);
        if (share > (touched.get(at)?.share ?? 0))
          touched.set(at, { share, x: (dx / length) * strength, y: (-dy / length) * strength });
      }
    }
  }
  for (const [at, { share, x, y }] of touched) {
    fields[0][at]! += (x - fields[0][at]!) * share;
    fields[1][at]! += (y - fields[1][at]!) * share;
  }
}

/** A box blur along both axes, round the edges. */
function blur(field: Float32Array, size: number, reach: number): void {
  const window = Math.min(2 * reach + 1, size);
  for (const [step, pitch] of [
    [1, size],
    [size, 1],
  ] as const) {
    const line = new Float64Array(size);
    for (let j = 0; j < size; j++) {
      for (let i = 0; i < size; i++) line[i] = field[i * step + j * pitch]!;
      let sum = 0;
      for (let k = 0; k < window; k++) sum += line[(((k - reach) % size) + size) % size]!;
      for (let i = 0; i < size; i++) {
        field[i * step + j * pitch] = sum / window;
        sum += line[(((i - reach + window) % size) + size) % size]! - line[(((i - reach) % size) + size) % size]!;
      }
    }
  }
}
