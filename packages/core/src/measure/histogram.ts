import { mostOf, type PixelImage } from '../image/pixels.ts';

/** How often each value occurs in a channel, in 256 even bins from 0 to 1. */
export interface Histogram {
  readonly counts: Float64Array;
  /** Least, largest and mean value, 0..1. */
  readonly low: number;
  readonly high: number;
  readonly mean: number;
}

/** The histograms of red, green, blue and alpha. */
export function histograms(image: PixelImage): readonly [Histogram, Histogram, Histogram, Histogram] {
  const { data } = image;
  const max = mostOf(image);
  const shift = max === 65535 ? 8 : 0;
  const of = (channel: number): Histogram => {
    const counts = new Float64Array(256);
    let [low, high, sum] = [max, 0, 0];
    for (let i = channel; i < data.length; i += 4) {
      const value = data[i]!;
      counts[value >> shift]!++;
      if (value < low) low = value;
      if (value > high) high = value;
      sum += value;
    }
    return { counts, low: low / max, high: high / max, mean: sum / max / (data.length / 4) };
  };
  return [of(0), of(1), of(2), of(3)];
}
