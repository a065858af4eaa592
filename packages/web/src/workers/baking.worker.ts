/// <reference lib="webworker" />
import {
  Baker,
  bakePlan,
  bandPixels,
  check,
  enoughFrames,
  flipbookText,
  halfSize,
  parse,
  pictureSize,
  type BakePlan,
  type BakeRecipe,
  type Difference,
  type FrameChoice,
  type ImageSource,
  type Program,
} from '@estela/core';
import { expose, transfer } from 'comlink';
import { decoded, imagesOf, type PictureRef } from './decoded.ts';

/** A material with what is to be baked of it, and the pictures of its project by name. */
export interface BakedSubject {
  readonly text: string;
  readonly recipe: BakeRecipe;
  readonly pictures: ReadonlyMap<string, PictureRef>;
}

/** How near flipbooks come to the live material. */
export interface Nearness {
  readonly choices: readonly FrameChoice[];
  /** Half the size, enlarged. */
  readonly half: Difference;
}

/** A sheet's pixels, and texts that play it: each frame held, and neighbours mixed. */
export interface PlayedSheet {
  readonly width: number;
  readonly height: number;
  readonly data: Uint8Array<ArrayBuffer>;
  readonly held: string;
  readonly blended: string;
}

/** Side at which counts of frames are compared, in pixels: more tells the same. */
const COMPARED = 96;

interface Prepared {
  readonly program: Program;
  readonly plan: BakePlan;
  readonly images: ImageSource;
}
async function prepared({ text, recipe, pictures }: BakedSubject): Promise<Prepared> {
  const program = check(parse(text));
  const plan = bakePlan(program, recipe);
  const images = await imagesOf(program, pictures, (picture) => decoded(picture).catch(() => undefined));
  return { program, plan, images: (slot) => images.get(slot.source) };
}

function bakerOf({ program, plan, images }: Prepared, more: object = {}): Baker {
  const { options, name } = plan.images[0]!;
  const baker = Baker.of(program, plan.values, { ...options, ...more }, images, plan.frames.length);
  if (!baker) throw new Error(`The material has no output ${name}.`);
  return baker;
}

const work = {
  /** Frames as they will be, by their place among those of the recipe, at another size. */
  async frames(
    subject: BakedSubject,
    places: readonly number[],
    [width, height]: readonly [number, number],
  ): Promise<Uint8ClampedArray<ArrayBuffer>[]> {
    const ready = await prepared(subject);
    const baker = bakerOf(ready, { width, height, bits: 8 });
    const all = places.map((place) => new Uint8ClampedArray(baker.frame(ready.plan.frames[place]!).buffer));
    return transfer(
      all,
      all.map((a) => a.buffer),
    );
  },
  /** Undefined where there is no colour to compare. Tells how much is done, 0 to 1. */
  async nearness(subject: BakedSubject, tell: (share: number) => void): Promise<Nearness | undefined> {
    const { program, plan, images } = await prepared(subject);
    const run = enoughFrames(program, plan.values, images, COMPARED);
    for (;;) {
      const step = run.next();
      if (!step.done) {
        tell(step.value * 0.9);
        continue;
      }
      const half = step.value && halfSize(program, plan.values, images, subject.recipe.size);
      return step.value && half && { choices: step.value, half };
    }
  },
  /** Tells how much is done, 0 to 1. */
  async sheet(subject: BakedSubject, source: string, tell: (share: number) => void): Promise<PlayedSheet> {
    const ready = await prepared(subject);
    const { plan } = ready;
    const baker = bakerOf(ready, { bits: 8 });
    const { width, height } = pictureSize(plan.pictures[0]!, baker.options, plan.cells);
    const data = new Uint8Array(width * height * 4);
    const rows = plan.cells.spread ? height : Math.max(1, Math.ceil(height / 32));
    for (let first = 0; first < height; first += rows) {
      const end = Math.min(height, first + rows);
      data.set(bandPixels(baker, plan.pictures, { picture: 0, first, end }, plan.cells), first * width * 4);
      tell(end / height);
    }
    const [held, blended] = [flipbookText(plan, source, false), flipbookText(plan, source, true)];
    return transfer({ width, height, data, held, blended }, [data.buffer]);
  },
  /** One loop as WebM. Tells how many frames are done. */
  async video(subject: BakedSubject, tell: (frames: number) => void): Promise<Uint8Array<ArrayBuffer>> {
    const { encodeVideo } = await import('./video.ts');
    const ready = await prepared(subject);
    const { plan } = ready;
    const baker = bakerOf(ready, { bits: 8, premultiply: true });
    const bytes = await encodeVideo(plan, (place) => baker.frame(plan.frames[place]!), tell);
    return transfer(bytes, [bytes.buffer]);
  },
};
export type BakingWork = typeof work;

expose(work);
