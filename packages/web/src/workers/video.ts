import type { BakePlan } from '@estela/core';
import {
  BufferTarget,
  canEncodeVideo,
  Output,
  Quality,
  VideoSample,
  VideoSampleSource,
  WebMOutputFormat,
} from 'mediabunny';

/** Bits for each pixel of each frame: little is lost that could be seen. */
const BITS_PER_PIXEL = 1.5;
/** Least and most bits a second. */
const [LEAST, MOST] = [500_000, 80_000_000];

/**
 * Encodes frames, as RGBA bytes over black, as one loop of WebM (VP9). Frames must be evenly spaced. Throws with a sentence
 * where this browser cannot.
 */
export async function encodeVideo(
  { recipe, frames, rate, images }: BakePlan,
  frame: (place: number) => Uint8Array,
  tell: (frames: number) => void,
): Promise<Uint8Array<ArrayBuffer>> {
  if (rate === undefined) throw new Error('A video needs evenly spaced frames.');
  if (images.length > 1) throw new Error('A video shows one output only.');
  const [width, height] = recipe.size;
  const bitrate = Math.min(Math.max(Math.round(width * height * rate * BITS_PER_PIXEL), LEAST), MOST);
  const encoding = { codec: 'vp9', quality: new Quality(bitrate) } as const;
  if (typeof VideoEncoder === 'undefined')
    throw new Error('This browser can only encode video over https or on localhost. Bake a sequence instead.');
  if (!(await canEncodeVideo('vp9', { width, height, quality: encoding.quality })))
    throw new Error(
      `This browser cannot encode VP9 of ${String(width)} x ${String(height)}. Use another size, or bake a sequence.`,
    );
  const target = new BufferTarget();
  const output = new Output({ format: new WebMOutputFormat(), target });
  const source = new VideoSampleSource(encoding);
  output.addVideoTrack(source, { frameRate: rate });
  await output.start();
  for (let place = 0; place < frames.length; place++) {
    const sample = new VideoSample(frame(place), {
      format: 'RGBX',
      codedWidth: width,
      codedHeight: height,
      timestamp: place / rate,
      duration: 1 / rate,
    });
    await source.add(sample);
    sample.close();
    tell(place + 1);
  }
  await output.finalize();
  if (!target.buffer) throw new Error('The video is empty.');
  return new Uint8Array(target.buffer);
}
