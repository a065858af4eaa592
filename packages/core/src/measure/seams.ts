import { mostOf, type PixelImage } from '../image/pixels.ts';

/** How an image meets itself across one pair of edges. */
export interface EdgeMeasure {
  /**
   * The mean change across the edge over the usual change between neighbours along that axis: about 1 where the image
   * tiles.
   */
  readonly ratio: number;
  /** The same ratio at each pixel of the edge. */
  readonly profile: Float64Array;
  /** Where along the edge the change is largest, in pixels. */
  readonly worst: number;
  /** The usual change between neighbours, 0..1. */
  readonly usual: number;
}

export interface SeamMeasure {
  /** Right edge against left. */
  readonly u: EdgeMeasure;
  /** Bottom edge against top. */
  readonly v: EdgeMeasure;
}

/** From here on a seam is seen: the change across the edge stands out among its neighbours. */
export const SEAM_SEEN = 2;

/** Ratios beyond this say no more: nearly nothing changes inside. */
export const RATIO_LIMIT = 999;

/**
 * Measures the seams of an image as it would repeat. With D(p, q) the mean of the four channels'
 * absolute differences, in stored values 0..1, and an image N pixels long along the axis:
 *
 *   usual = mean of D(p[i], p[i + 1]) over all i < N - 1 and all lines
 *   profile[j] = D(p[N - 1], p[0]) on line j / usual
 *   ratio = mean of profile
 *
 * 0/0 counts as 1, so that an even image tiles; ratios stop at RATIO_LIMIT. An axis one pixel long meets itself: 1.
 */
export function measureSeams(image: PixelImage): SeamMeasure {
  const { width, height } = image;
  return { u: measureEdge(image, width, height, 4, width * 4), v: measureEdge(image, height, width, width * 4, 4) };
}

/** Along an axis of `count` pixels, `step` values apart, on `lines` lines, `pitch` values apart. */
function measureEdge(image: PixelImage, count: number, lines: number, step: number, pitch: number): EdgeMeasure {
  const { data } = image;
  const scale = 1 / (4 * mostOf(image));
  const change = (a: number, b: number): number => {
    let sum = 0;
    for (let c = 0; c < 4; c++) sum += Math.abs(data[a + c]! - data[b + c]!);
    return sum * scale;
  };
  let total = 0;
  const profile = new Float64Array(lines);
  for (let j = 0; j < lines; j++) {
    const start = j * pitch;
    for (let i = 0; i < count - 1; i++) total += change(start + i * step, start + (i + 1) * step);
    profile[j] = change(start + (count - 1) * step, start);
  }
  const usual = count > 1 ? total / ((count - 1) * lines) : 0;
  const over = (value: number): number => (value === 0 && usual === 0 ? 1 : Math.min(value / usual, RATIO_LIMIT));
  const edge = profile.reduce((sum, value) => sum + value, 0) / lines;
  const worst = profile.reduce((best, value, j) => (value > profile[best]! ? j : best), 0);
  return { ratio: count > 1 ? over(edge) : 1, profile: profile.map(over), worst, usual };
}
