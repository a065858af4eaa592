import { mostOf, type PixelImage } from './pixels.ts';

/** How the stored values of an image are meant. */
export type Encoding = 'color' | 'data' | 'normal';

/** Up to this many texels are looked at. */
const TEXELS = 4096;

/** Normal maps are blue: their channels lie further apart than this. */
const LEAST_NORMAL_SPREAD = 0.1;

export interface Appearance {
  /** Share of texels that are unit vectors pointing out of the surface. */
  readonly normal: number;
  /** Mean distance between a texel's strongest and weakest channel, 0..1. */
  readonly colourful: number;
}

/** What an image looks like, from a few thousand of its texels. */
export function appearanceOf(image: PixelImage): Appearance {
  const count = image.width * image.height;
  const stride = Math.max(1, Math.floor(count / TEXELS));
  const max = mostOf(image);
  let [seen, normal, spread] = [0, 0, 0];
  for (let i = 0; i < count; i += stride) {
    const [r, g, b] = [0, 1, 2].map((c) => image.data[i * 4 + c]! / max) as [number, number, number];
    const length = Math.hypot(2 * r - 1, 2 * g - 1, 2 * b - 1);
    if (Math.abs(length - 1) < 0.08 && b > 0.55) normal++;
    spread += Math.max(r, g, b) - Math.min(r, g, b);
    seen++;
  }
  const colourful = spread / seen;
  // Some greys are as long as unit vectors, but point nowhere.
  return { normal: colourful < LEAST_NORMAL_SPREAD ? 0 : normal / seen, colourful };
}

/** From this share of unit vectors on, an image is a normal map; below the second, it is none. */
export const NORMAL_SHARE = 0.95;
export const NOT_NORMAL_SHARE = 0.5;
/** Below this an image is grey. */
export const GREY = 0.01;

/** Words of file names that tell of values rather than colours. */
const DATA_NAMES = /mask|rough|metal|height|bump|gloss|spec|occlusion|flow|(^|[-_. ])(ao|orm|rma)([-_. ]|$)/i;

/** How an image is most likely meant: normals, values where it is grey or its name says so, else colours. */
export function likelyEncoding(image: PixelImage, name: string): Encoding {
  const { normal, colourful } = appearanceOf(image);
  if (normal > NORMAL_SHARE) return 'normal';
  return colourful < GREY || DATA_NAMES.test(name) ? 'data' : 'color';
}
