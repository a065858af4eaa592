import { blankImage, mostOf, type ChannelIndex, type PixelImage } from './pixels.ts';

/** Where one channel of a packed image comes from: a channel of an image, or a number 0..1 where there is none. */
export interface ChannelPick {
  readonly image?: PixelImage;
  readonly channel: ChannelIndex;
  readonly invert: boolean;
  readonly constant: number;
}

/**
 * One channel as 0..1, brought to a size: each pixel is the mean of what it covers, or between the four nearest where
 * that is less than one.
 */
export function channelValues(image: PixelImage, channel: ChannelIndex, width: number, height: number): Float32Array {
  const { data } = image;
  const max = mostOf(image);
  const result = new Float32Array(width * height);
  const columns = footprints(image.width, width);
  const rows = footprints(image.height, height);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      let sum = 0;
      for (const [row, down] of rows[y]!)
        for (const [column, across] of columns[x]!)
          sum += data[(row * image.width + column) * 4 + channel]! * down * across;
      result[y * width + x] = sum / max;
    }
  }
  return result;
}

/** For each place of the new size, the old places under it and their shares, which add up to 1. */
function footprints(from: number, to: number): [number, number][][] {
  return Array.from({ length: to }, (_, i) => {
    const [start, end] = [(i * from) / to, ((i + 1) * from) / to];
    if (end - start >= 1) {
      const list: [number, number][] = [];
      for (let k = Math.floor(start); k < end - 1e-9; k++)
        list.push([k, (Math.min(k + 1, end) - Math.max(k, start)) / (end - start)]);
      return list;
    }
    const middle = (start + end) / 2 - 0.5;
    const low = Math.floor(middle);
    const clamped = (k: number): number => Math.min(Math.max(k, 0), from - 1);
    return [
      [clamped(low), 1 - (middle - low)],
      [clamped(low + 1), middle - low],
    ];
  });
}

/** Builds an image of a size from four picks, for red, green, blue and alpha. */
export function packChannels(picks: readonly ChannelPick[], width: number, height: number, bits: 8 | 16): PixelImage {
  const result = blankImage(width, height, bits);
  const max = mostOf(result);
  picks.slice(0, 4).forEach(({ image, channel, invert, constant }, c) => {
    const values = image && channelValues(image, channel, width, height);
    for (let i = 0; i < width * height; i++) {
      const value = values ? (invert ? 1 - values[i]! : values[i]!) : constant;
      result.data[i * 4 + c] = Math.round(Math.min(Math.max(value, 0), 1) * max);
    }
  });
  return result;
}

/** One channel as a grey, solid image. */
export function unpackChannel(image: PixelImage, channel: ChannelIndex): PixelImage {
  const result = blankImage(image.width, image.height, image.data instanceof Uint16Array ? 16 : 8);
  const max = mostOf(image);
  for (let i = 0; i < result.data.length; i += 4)
    result.data.fill(image.data[i + channel]!, i, i + 3).fill(max, i + 3, i + 4);
  return result;
}
