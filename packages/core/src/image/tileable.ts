import { copyOf, mostOf, type PixelImage } from './pixels.ts';

/** One axis of an image: `count` pixels, `step` values apart, on `lines` lines, `pitch` values apart. */
interface Axis {
  readonly count: number;
  readonly step: number;
  readonly lines: number;
  readonly pitch: number;
}
const axesOf = ({ width, height }: PixelImage): readonly [Axis, Axis] => [
  { count: width, step: 4, lines: height, pitch: width * 4 },
  { count: height, step: width * 4, lines: width, pitch: 4 },
];

/** The axes along which an image is to tile: left to right, top to bottom, or both. */
export type TileAxes = 'u' | 'v' | 'both';

export interface TileableOptions {
  /** Both where it is not said. */
  readonly axes?: TileAxes;
  /** How far from the edge pixels may change, as a share of the side: 0.02 to 0.5. */
  readonly band: number;
}

/**
 * Makes an image tile by fading it, toward its edges, to a copy of itself that is shifted by half: what meets at
 * the edge are then neighbours of the middle. One axis after the other, so that the second keeps what the first did.
 * With `keepContrast` the mixed part is spread about the image's mean by 1 / sqrt(a^2 + b^2), a and b the two
 * shares, which keeps the variance of noise (Heitz and Neyret, High-Performance By-Example Noise, 2018, eq. 3).
 */
export function tileByBlending(
  image: PixelImage,
  { band, keepContrast, axes = 'both' }: TileableOptions & { readonly keepContrast: boolean },
): PixelImage {
  let result = image;
  for (const axis of AXES[axes]) result = blendAxis(result, axesOf(image)[axis], band, keepContrast);
  return result;
}

const AXES: Record<TileAxes, readonly (0 | 1)[]> = { u: [0], v: [1], both: [0, 1] };

function meansOf(image: PixelImage): number[] {
  const sums = [0, 0, 0, 0];
  image.data.forEach((value, i) => {
    sums[i & 3]! += value;
  });
  return sums.map((sum) => sum / (image.width * image.height));
}

function blendAxis(
  image: PixelImage,
  { count, step, lines, pitch }: Axis,
  band: number,
  keepContrast: boolean,
): PixelImage {
  const result = copyOf(image);
  const means = meansOf(image);
  const max = mostOf(image);
  const reach = Math.max(Math.min(band, 0.5) * count, 1);
  const half = count >> 1;
  for (let i = 0; i < count; i++) {
    const t = Math.min((Math.min(i, count - 1 - i) + 0.5) / reach, 1);
    const own = t * t * (3 - 2 * t);
    if (own >= 1) continue;
    const gain = keepContrast ? 1 / Math.hypot(own, 1 - own) : 1;
    const other = ((i + half) % count) * step;
    for (let j = 0; j < lines; j++) {
      const at = i * step + j * pitch;
      for (let c = 0; c < 4; c++) {
        const mean = means[c]!;
        const mixed = (image.data[at + c]! - mean) * own + (image.data[other + j * pitch + c]! - mean) * (1 - own);
        result.data[at + c] = Math.round(Math.min(Math.max(mean + mixed * gain, 0), max));
      }
    }
  }
  return result;
}

/** Places from which a patch is tried. */
const CANDIDATES = 8;
/** Pixels over which a cut is softened, to each side. */
const FEATHER = 1.5;

/**
 * Makes an image tile by laying a strip from its inside over each edge and cutting it out along the paths of least
 * difference, so that nothing is mixed but a hair along the cuts. Strip and cuts follow Efros and Freeman, Image
 * Quilting (2001), section 2.1: the error of a pixel is the squared difference of what lies there in image and
 * strip, a cut costs the errors it passes, and dynamic programming finds the cheapest. Of several strips the one
 * with the cheapest cuts is taken. The second axis cuts in closed paths, so that the first goes on tiling.
 */
export function tileByPatching(image: PixelImage, { band, axes = 'both' }: TileableOptions): PixelImage {
  // The last axis cuts in closed paths, so that one that tiles already goes on tiling.
  return AXES[axes].reduce<PixelImage>(
    (result, axis, i) => patchAxis(result, axesOf(result)[axis], band, i > 0 || axes !== 'both'),
    image,
  );
}

/** What a strip would cost and where it is cut: for each line the first pixel of the strip, and the first behind it. */
interface Cuts {
  readonly cost: number;
  readonly first: Int32Array;
  readonly behind: Int32Array;
}

function patchAxis(image: PixelImage, axis: Axis, band: number, closed: boolean): PixelImage {
  const { count, step, lines, pitch } = axis;
  // The strip reaches so far to each side of the edge, and is taken from where it does not meet the edge itself.
  const reach = Math.floor(Math.min(Math.max(band, 0.02), 0.24) * count);
  if (reach < 2) return image;
  const { data } = image;
  const max = mostOf(image);
  const place = (i: number): number => (((i % count) + count) % count) * step;
  let best: { cuts: Cuts; centre: number; slide: number } | undefined;
  for (let n = 0; n < CANDIDATES; n++) {
    const centre = Math.round(2 * reach + ((count - 4 * reach) * (n + 0.5)) / CANDIDATES);
    // Along a closed axis the strip may slide as well.
    const slide = closed ? Math.round((lines * n) / CANDIDATES) : 0;
    const error = (i: number, j: number): number => {
      const [a, b] = [place(i) + j * pitch, place(centre + i) + ((j + slide) % lines) * pitch];
      let sum = 0;
      for (let c = 0; c < 4; c++) sum += ((data[a + c]! - data[b + c]!) / max) ** 2;
      return sum;
    };
    const left = cheapestCut(reach, lines, (k, j) => error(k - reach, j), closed);
    const right = cheapestCut(reach, lines, (k, j) => error(k, j), closed);
    const cost = left.cost + right.cost;
    if (best && best.cuts.cost <= cost) continue;
    best = {
      cuts: { cost, first: left.path.map((k) => k - reach), behind: right.path.map((k) => k + 1) },
      centre,
      slide,
    };
  }
  if (!best) return image;
  const { cuts, centre, slide } = best;
  const result = copyOf(image);
  for (let j = 0; j < lines; j++) {
    const [first, behind] = [cuts.first[j]!, cuts.behind[j]!];
    for (let i = -reach; i < reach; i++) {
      // 1 inside the strip, falling to 0 over the feather about each cut.
      const inside = Math.min(i + 0.5 - first, behind - i - 0.5) / (2 * FEATHER) + 0.5;
      const edge = Math.min((i + reach) / FEATHER, (reach - 1 - i) / FEATHER);
      const share = Math.min(Math.max(Math.min(inside, edge), 0), 1);
      if (share === 0) continue;
      const [to, from] = [place(i) + j * pitch, place(centre + i) + ((j + slide) % lines) * pitch];
      for (let c = 0; c < 4; c++)
        result.data[to + c] = Math.round(data[to + c]! + (data[from + c]! - data[to + c]!) * share);
    }
  }
  return result;
}

/**
 * The path of least error through a band `width` wide, one place a line, stepping aside by at most one; closed, it ends
 * where it began.
 */
function cheapestCut(
  width: number,
  lines: number,
  error: (k: number, j: number) => number,
  closed: boolean,
): { cost: number; path: Int32Array } {
  const errors = new Float64Array(width * lines);
  for (let j = 0; j < lines; j++) for (let k = 0; k < width; k++) errors[j * width + k] = error(k, j);
  const free = cutFrom(errors, width, lines, undefined);
  if (!closed || Math.abs(free.path[0]! - free.path[lines - 1]!) <= 1) return free;
  // Begun where the free path is halfway, a path has had time to find its place.
  return cutFrom(errors, width, lines, free.path[lines >> 1]);
}

/** With a `start`, the path begins there and ends at most one beside it. */
function cutFrom(
  errors: Float64Array,
  width: number,
  lines: number,
  start: number | undefined,
): { cost: number; path: Int32Array } {
  const sums = new Float64Array(width * lines);
  for (let k = 0; k < width; k++) sums[k] = start === undefined || k === start ? errors[k]! : Infinity;
  for (let j = 1; j < lines; j++) {
    const [row, above] = [j * width, (j - 1) * width];
    for (let k = 0; k < width; k++) {
      let least = sums[above + k]!;
      if (k > 0 && sums[above + k - 1]! < least) least = sums[above + k - 1]!;
      if (k < width - 1 && sums[above + k + 1]! < least) least = sums[above + k + 1]!;
      sums[row + k] = errors[row + k]! + least;
    }
  }
  const path = new Int32Array(lines);
  const last = (lines - 1) * width;
  let at = start ?? 0;
  for (let k = 0; k < width; k++)
    if ((start === undefined || Math.abs(k - start) <= 1) && sums[last + k]! < sums[last + at]!) at = k;
  const cost = sums[last + at]!;
  for (let j = lines - 1; ; j--) {
    path[j] = at;
    if (j === 0) return { cost, path };
    const above = (j - 1) * width;
    let next = at;
    if (at > 0 && sums[above + at - 1]! < sums[above + next]!) next = at - 1;
    if (at < width - 1 && sums[above + at + 1]! < sums[above + next]!) next = at + 1;
    at = next;
  }
}
