import { MOST_TEXELS, type PixelImage } from '../../image/pixels.ts';
import type { ImageSlot } from '../../ir/node.ts';
import { fromSrgb } from '../../ops/srgb.ts';

const f = Math.fround;

/** Index of a texel after wrapping: repeated, mirrored (period 2n) or held at the edge. */
export function wrapIndex(index: number, size: number, wrap: ImageSlot['wrap']): number {
  if (wrap === 'clamp') return Math.min(Math.max(index, 0), size - 1);
  const period = wrap === 'mirror' ? 2 * size : size;
  const place = ((index % period) + period) % period;
  return place < size ? place : period - 1 - place;
}

/** One texel, decoded: 0..1, linear for colour images. */
function texel(image: PixelImage, x: number, y: number, slot: ImageSlot): [number, number, number, number] {
  const max = image.data instanceof Uint16Array ? 65535 : 255;
  const at = (y * image.width + x) * 4;
  const part = (i: number): number => (image.data[at + i] ?? 0) / max;
  const decoded = (i: number): number => f(slot.encoding === 'color' ? fromSrgb(part(i)) : part(i));
  return [decoded(0), decoded(1), decoded(2), f(part(3))];
}

/** A coordinate in texels; 0 where it is not finite or too large to tell texels apart. */
const told = (texels: number): number => (Math.abs(texels) <= MOST_TEXELS ? texels : 0);

/** Reads an image at a coordinate, as its slot says. Linear filtering mixes the four nearest texels' decoded values. */
export function readImage(image: PixelImage, slot: ImageSlot, u: number, v: number): [number, number, number, number] {
  const { width, height } = image;
  const at = (x: number, y: number): [number, number, number, number] =>
    texel(image, wrapIndex(x, width, slot.wrap), wrapIndex(y, height, slot.wrap), slot);
  const [across, down] = [told(f(u * width)), told(f(v * height))];
  if (slot.filter === 'nearest') return at(Math.floor(across), Math.floor(down));
  const [x, y] = [f(across - 0.5), f(down - 0.5)];
  const [x0, y0] = [Math.floor(x), Math.floor(y)];
  const [tx, ty] = [f(x - x0), f(y - y0)];
  const mix = (a: number, b: number, t: number): number => f(a + f(f(b - a) * t));
  const [a, b, c, d] = [at(x0, y0), at(x0 + 1, y0), at(x0, y0 + 1), at(x0 + 1, y0 + 1)];
  return [0, 1, 2, 3].map((i) => mix(mix(a[i] ?? 0, b[i] ?? 0, tx), mix(c[i] ?? 0, d[i] ?? 0, tx), ty)) as [
    number,
    number,
    number,
    number,
  ];
}
