/** How a frame stands in a sheet, besides its place. */
export interface CellOptions {
  /** Pixels by which its edges are repeated around it, so that filters and mipmaps do not meet its neighbours. */
  readonly bleed: number;
  /** Gives clear pixels the colour of the nearest covered one, so that filters do not draw a dark edge around shapes. */
  readonly spread: boolean;
  /** Sides of the whole are made powers of two: what is added right and below is clear. */
  readonly powerOfTwo?: boolean;
}

/** Most pixels of bleed. */
export const BLEED_LIMIT = 64;

export const PLAIN: CellOptions = { bleed: 0, spread: false };

/**
 * Gives each clear pixel (alpha 0) of RGBA of 8 or 16 bits the colour of the nearest covered one, by the distance of their
 * centres; of several always the same one. Alpha stays. Where nothing is covered nothing changes.
 *
 * Felzenszwalb and Huttenlocher, Distance Transforms of Sampled Functions, 2012: the nearest in each column, then along
 * each row the lower envelope of the parabolas of their distances. Linear in the pixels.
 */
export function spreadColor(data: Uint8Array, width: number, height: number, bits: 8 | 16 = 8): void {
  const bytes = bits === 16 ? 8 : 4;
  const isCovered = (pixels: Uint8Array, index: number): boolean =>
    pixels[(index + 1) * bytes - 1]! > 0 || (bits === 16 && pixels[(index + 1) * bytes - 2]! > 0);
  const far = width + height;
  /** By pixel: the row of the nearest covered pixel in its column; -1 where there is none. */
  const rows = new Int32Array(width * height).fill(-1);
  for (let x = 0; x < width; x++) {
    for (let y = 0, last = -1; y < height; y++) {
      if (isCovered(data, y * width + x)) last = y;
      rows[y * width + x] = last;
    }
    for (let y = height - 1, next = -1; y >= 0; y--) {
      const above = rows[y * width + x]!;
      if (above === y) next = y;
      else if (next >= 0 && (above < 0 || next - y < y - above)) rows[y * width + x] = next;
    }
  }
  const centres = new Int32Array(width);
  const starts = new Float64Array(width + 1);
  const source = data.slice();
  for (let y = 0; y < height; y++) {
    const heightAt = (x: number): number => {
      const row = rows[y * width + x]!;
      return row < 0 ? Infinity : (row - y) ** 2;
    };
    let last = -1;
    for (let x = 0; x < width; x++) {
      const h = heightAt(x);
      if (h === Infinity) continue;
      let start = -far;
      while (last >= 0) {
        const c = centres[last]!;
        // Where this parabola comes below that one.
        start = (h + x * x - heightAt(c) - c * c) / (2 * (x - c));
        if (start > starts[last]!) break;
        last--;
      }
      if (last < 0) start = -far;
      last++;
      centres[last] = x;
      starts[last] = start;
    }
    if (last < 0) continue;
    for (let x = 0, k = 0; x < width; x++) {
      while (k < last && starts[k + 1]! < x) k++;
      const to = y * width + x;
      if (isCovered(source, to)) continue;
      const c = centres[k]!;
      const from = rows[y * width + c]! * width + c;
      for (let i = 0; i < (bytes / 4) * 3; i++) data[to * bytes + i] = source[from * bytes + i]!;
    }
  }
}
