import { encodePixels } from '@estela/codecs';
import { pictureNamed } from '../../../../demo/pictures.ts';

/** Draws a picture that starts read, as a PNG; undefined where there is none of that name. */
export default function draw(name: string): Uint8Array | undefined {
  const image = pictureNamed(name);
  return image && encodePixels(image);
}
