import { Baker } from '../bake/bake.ts';
import { bakeBand } from '../bake/bands.ts';
import { PngWriter, type Band, type DeflateBand } from '../bake/png-bands.ts';
import type { Program } from '../check/program.ts';
import type { ImageSource } from '../image/pixels.ts';
import { bakeManifest } from './bake-manifest.ts';
import { isLinear, type BakeFile, type BakePlan } from './bake-plan.ts';
import { reasons } from '../diagnostics/reasons.ts';

/** Some bytes of a file, after those before; `last` are the last of it. */
export interface FilePiece {
  readonly file: BakeFile;
  readonly bytes: Uint8Array<ArrayBuffer>;
  readonly last: boolean;
}

/** The files of a bake, one after the other, as their bands come in the order of the plan. */
export async function* bakeFiles(plan: BakePlan, bands: AsyncIterable<Band>): AsyncGenerator<FilePiece> {
  let writer: PngWriter | undefined;
  let [at, index] = [0, 0];
  for await (const band of bands) {
    const place = plan.bands[index++]!;
    const file = plan.files[at]!;
    const image = plan.images[file.image]!;
    if (!writer) {
      writer = new PngWriter({
        width: file.width,
        height: file.height,
        bits: image.options.bits ?? 8,
        linear: isLinear(image),
        ...(file.delay ? { frames: { count: file.count, delay: file.delay } } : {}),
      });
      yield { file, bytes: writer.start(), last: false };
    }
    yield { file, bytes: writer.band(band, place.last), last: false };
    if (!place.last || place.picture < file.first + file.count - 1) continue;
    yield { file, bytes: writer.end(), last: true };
    writer = undefined;
    at++;
  }
  if (index < plan.bands.length) throw new Error(reasons.partsMissing);
}

/** A part of a file by its name. */
export interface NamedPiece {
  readonly name: string;
  readonly bytes: Uint8Array<ArrayBuffer>;
  readonly last: boolean;
}

/** All that goes into the zip of a bake: its files, and its manifest at last. */
export async function* bakePieces(
  plan: BakePlan,
  bands: AsyncIterable<Band>,
  utf8: (text: string) => Uint8Array<ArrayBuffer>,
): AsyncGenerator<NamedPiece> {
  for await (const { file, bytes, last } of bakeFiles(plan, bands)) yield { name: file.name, bytes, last };
  yield { name: `${plan.name}.json`, bytes: utf8(writtenManifest(plan)), last: true };
}

/** The manifest as a text. */
export const writtenManifest = (plan: BakePlan): string => `${JSON.stringify(bakeManifest(plan), undefined, 2)}\n`;

/** Makes the bands of a plan by their place, each of them by itself: the one piece of work of which all bakes are made. */
export function bandMaker(
  program: Program,
  plan: BakePlan,
  images: ImageSource,
  deflate: DeflateBand,
): (index: number) => Band {
  const bakers = new Map<number, Baker>();
  const bakerOf = (image: number): Baker => {
    const known = bakers.get(image);
    if (known) return known;
    const baker = Baker.of(program, plan.values, plan.images[image]!.options, images, plan.frames.length);
    if (!baker) throw new Error(reasons.outputGone(plan.images[image]!.name));
    // Bands come in order: what was needed for another image is not needed again.
    bakers.clear();
    bakers.set(image, baker);
    return baker;
  };
  return (index) => {
    const band = plan.bands[index]!;
    return bakeBand(bakerOf(band.image), plan.pictures, band, deflate, plan.cells);
  };
}
