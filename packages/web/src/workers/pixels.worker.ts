/// <reference lib="webworker" />
import { decodeGif, encodePixels, sheetColumns, type ImageHeader } from '@estela/codecs';
import {
  bakeStep,
  check,
  drawPathMap,
  histograms,
  likelyEncoding,
  measureSeams,
  packChannels,
  paintFlowMap,
  parse,
  rampPixels,
  sheetOf,
  stopsOfPixels,
  tileByBlending,
  tileByPatching,
  unpackChannel,
  type ChannelIndex,
  type Encoding,
  type FlowDrawing,
  type Histogram,
  type PathDrawing,
  type PixelImage,
  type RampEasing,
  type SeamMeasure,
  type StepRecipe,
  type TileAxes,
  type WrittenStop,
} from '@estela/core';
import { expose, transfer } from 'comlink';
import { decoded, decodeNew, imagesOf, type PictureRef } from './decoded.ts';
import { shown, type ChannelView } from '../material/shown.ts';
import { unzipped, zipped } from './zip.ts';

/** What is known of a picture once it is decoded. */
export interface Measures {
  readonly header: ImageHeader;
  /** Channels the file itself has, 1 to 4. */
  readonly channels: number;
  readonly frames: number;
  readonly seams: SeamMeasure;
  readonly histograms: readonly [Histogram, Histogram, Histogram, Histogram];
}

/** A picture made here: as a file, as it looks, and how it meets itself. */
export interface Made {
  readonly bytes: Uint8Array<ArrayBuffer>;
  readonly width: number;
  readonly height: number;
  readonly bitmap: ImageBitmap;
  readonly seams: SeamMeasure;
}

export interface PackPick {
  readonly picture?: PictureRef;
  readonly channel: ChannelIndex;
  readonly invert: boolean;
  readonly constant: number;
}

export type TileMethod =
  | { readonly method: 'blend'; readonly band: number; readonly keepContrast: boolean; readonly axes?: TileAxes }
  | { readonly method: 'patch'; readonly band: number; readonly axes?: TileAxes };

/** Longest side of a picture that is shown; a larger one is shown smaller. */
const SHOWN = 4096;

async function made(image: PixelImage, look: ChannelView = 'all'): Promise<Made> {
  const bytes = encodePixels(image);
  const bitmap = await shown(image, look, SHOWN);
  return transfer({ bytes, bitmap, width: image.width, height: image.height, seams: measureSeams(image) }, [
    bytes.buffer,
    bitmap,
  ]);
}

/** Everything that is done to pixels, away from the page. Refusals are Errors with a plain sentence. */
const work = {
  /** Decodes a file that is not stored yet; its name is in what is said where it is refused. */
  async inspect(bytes: Uint8Array<ArrayBuffer>): Promise<{ header: ImageHeader; frames: number }> {
    const { header, frames } = await decodeNew(bytes);
    return { header, frames };
  },
  /** All frames of a GIF, side by side. */
  async sheet(bytes: Uint8Array<ArrayBuffer>): Promise<Made & { readonly columns: number; readonly rows: number }> {
    const { frames } = decodeGif(bytes);
    const columns = sheetColumns(frames.length);
    const sheet = await made(sheetOf(frames, columns));
    return transfer({ ...sheet, columns, rows: Math.ceil(frames.length / columns) }, [
      sheet.bytes.buffer,
      sheet.bitmap,
    ]);
  },
  async measure(picture: PictureRef): Promise<Measures> {
    const image = await decoded(picture);
    const { header, channels, frames } = image;
    return { header, channels, frames, seams: measureSeams(image), histograms: histograms(image) };
  },
  /** How its values are most likely meant. */
  async encoding(picture: PictureRef, name: string): Promise<Encoding> {
    return likelyEncoding(await decoded(picture), name);
  },
  async show(picture: PictureRef, look: ChannelView, most = SHOWN): Promise<ImageBitmap> {
    const bitmap = await shown(await decoded(picture), look, most);
    return transfer(bitmap, [bitmap]);
  },
  async tile(picture: PictureRef, options: TileMethod): Promise<Made> {
    const image = await decoded(picture);
    return made(options.method === 'blend' ? tileByBlending(image, options) : tileByPatching(image, options));
  },
  async pack(
    picks: readonly PackPick[],
    width: number,
    height: number,
    bits: 8 | 16,
    look: ChannelView,
  ): Promise<Made> {
    const found = await Promise.all(
      picks.map(async ({ picture, ...rest }) => ({ ...rest, ...(picture ? { image: await decoded(picture) } : {}) })),
    );
    return made(packChannels(found, width, height, bits), look);
  },
  async unpack(picture: PictureRef, channel: ChannelIndex): Promise<Made> {
    return made(unpackChannel(await decoded(picture), channel));
  },
  path: (drawing: PathDrawing): Promise<Made> => made(drawPathMap(drawing), 'rgb'),
  flow: (drawing: FlowDrawing): Promise<Made> => made(paintFlowMap(drawing), 'rgb'),
  /** Bakes a step of a material; `pictures` are the project's, by name. */
  async step(text: string, recipe: StepRecipe, pictures: ReadonlyMap<string, PictureRef>): Promise<Made> {
    const program = check(parse(text));
    const images = await imagesOf(program, pictures);
    const baked = bakeStep(program, recipe, (slot) => images.get(slot.source));
    if (!baked) throw new Error(`The material no longer has the step '${recipe.step}'.`);
    return made(baked);
  },
  zip(files: ReadonlyMap<string, Uint8Array<ArrayBuffer>>): Uint8Array<ArrayBuffer> {
    const packed = zipped(files);
    return transfer(packed, [packed.buffer]);
  },
  unzip: unzipped,
  async rampOf(bytes: Uint8Array<ArrayBuffer>): Promise<WrittenStop[]> {
    return stopsOfPixels(await decodeNew(bytes));
  },
  async rampOfSource(picture: PictureRef): Promise<WrittenStop[]> {
    return stopsOfPixels(await decoded(picture));
  },
  rampFile(stops: readonly WrittenStop[], easing: RampEasing, width: number): Uint8Array<ArrayBuffer> {
    return encodePixels(rampPixels(stops, easing, width));
  },
};
export type PixelWork = typeof work;

expose(work);
