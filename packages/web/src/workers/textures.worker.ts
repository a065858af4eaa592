/// <reference lib="webworker" />
import type { DecodedImage } from '@estela/codecs';
import { drawPathMap, paintFlowMap, type FlowDrawing, type PathDrawing } from '@estela/core';
import { expose, transfer } from 'comlink';
import { forTexture, type GlPixels } from '../material/shown.ts';
import type { PictureRef } from './decoded.ts';
import { decoded, decodeNew } from './decoding.ts';

/** What other workers ask for. Refusals are Errors with a plain sentence. */
export interface Decoding {
  readonly decoded: (picture: PictureRef) => Promise<DecodedImage>;
  readonly decodeNew: (bytes: Uint8Array<ArrayBuffer>) => Promise<DecodedImage>;
}

/** Longest side of a map that is drawn, in pixels. */
const MAP_SIDE = 4096;

/** Before all other pictures come those that the Stage waits for. */
const STAGE = 10;

const ready = (pixels: GlPixels): GlPixels => transfer(pixels, [pixels.data.buffer]);

/** Decodes the sources, once for all who read them, and makes the textures of the Stage. */
const work = {
  /** Lets another worker ask; what is more urgent is decoded first. */
  serve(port: MessagePort, urgency: number): void {
    const decoding: Decoding = {
      decoded: (picture) => decoded(picture, urgency),
      decodeNew: (bytes) => decodeNew(bytes, urgency),
    };
    expose(decoding, port);
  },
  async texture(picture: PictureRef, color: boolean, most: number): Promise<GlPixels> {
    return ready(forTexture(await decoded(picture, STAGE), color, most));
  },
  /** Maps that are being drawn. */
  path: (drawing: PathDrawing): GlPixels => ready(forTexture(drawPathMap(drawing), false, MAP_SIDE)),
  flow: (drawing: FlowDrawing): GlPixels => ready(forTexture(paintFlowMap(drawing), false, MAP_SIDE)),
};
export type TextureWork = typeof work;

expose(work);
