import { Baker } from '../../bake/bake.ts';
import type { ImageSource } from '../../image/pixels.ts';
import { encodeApng, encodePng, type Deflate } from '../png.ts';
import type { PackageShader } from './shaders.ts';

/** Sides in pixels, and most frames. */
const [SIDE, MOST_FRAMES] = [160, 32];

/** An animated PNG of the loop, of every frame or of some at even steps; undefined where there is no colour to show. */
export function previewOf(
  { program, values }: PackageShader,
  images: ImageSource,
  deflate: Deflate,
): Uint8Array | undefined {
  const baker = Baker.of(program, values, { output: 'color', width: SIDE, height: SIDE, samples: 1 }, images);
  if (!baker) return undefined;
  const { frames, seconds } = program.loop;
  const count = Math.min(frames, MOST_FRAMES);
  const pictures = Array.from({ length: count }, (_, i) => ({
    width: SIDE,
    height: SIDE,
    data: baker.frame((i * frames) / count),
  }));
  const [first] = pictures;
  if (!first) return undefined;
  return count === 1
    ? encodePng(first, deflate)
    : encodeApng(pictures, { num: Math.round((seconds / count) * 1000), den: 1000 }, deflate);
}
