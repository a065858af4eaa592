import { Decoder, type DecodedImage } from '@estela/codecs';
import type { PixelImage, Program } from '@estela/core';
import jpegModule from '@jsquash/jpeg/codec/dec/mozjpeg_dec.wasm?url';
import webpModule from '@jsquash/webp/codec/dec/webp_dec.wasm?url';
import { sha256 } from './sha256.ts';

/** A source's content: where its bytes are, and what they are. */
export interface PictureRef {
  readonly hash: string;
  readonly address: string;
}

const ADDRESSES = { jpeg: jpegModule, webp: webpModule } as const;
export const decoder = new Decoder(async (name) => WebAssembly.compileStreaming(fetch(ADDRESSES[name])));

/** Bytes of decoded pixels that are kept for the next question. */
const KEPT = 384 * 1024 * 1024;
const kept = new Map<string, Promise<DecodedImage>>();
const sizes = new Map<string, number>();

const forgetOldest = (): void => {
  let total = [...sizes.values()].reduce((sum, size) => sum + size, 0);
  for (const hash of kept.keys()) {
    if (total <= KEPT || kept.size <= 1) return;
    total -= sizes.get(hash) ?? 0;
    kept.delete(hash);
    sizes.delete(hash);
  }
};

function keep(hash: string, image: Promise<DecodedImage>): Promise<DecodedImage> {
  kept.set(hash, image);
  image.then(
    ({ data }) => {
      if (kept.get(hash) === image) sizes.set(hash, data.byteLength);
      forgetOldest();
    },
    () => {
      kept.delete(hash);
    },
  );
  return image;
}

/** The pixels of a source; the newest few are kept. */
export function decoded({ hash, address }: PictureRef): Promise<DecodedImage> {
  const known = kept.get(hash);
  if (known) {
    // Last used, last to go.
    kept.delete(hash);
    kept.set(hash, known);
    return known;
  }
  return keep(
    hash,
    (async () => {
      const response = await fetch(address);
      if (!response.ok) throw new Error('The picture cannot be fetched.');
      return decoder.decode(new Uint8Array(await response.arrayBuffer()));
    })(),
  );
}

/** Decodes bytes that are not stored yet, and keeps them under their hash. */
export async function decodeNew(bytes: Uint8Array<ArrayBuffer>): Promise<DecodedImage> {
  const hash = await sha256(bytes);
  return kept.get(hash) ?? keep(hash, decoder.decode(bytes));
}

/** The pixels of all sources that a material reads and the project has, by name. */
export async function imagesOf(
  program: Program,
  pictures: ReadonlyMap<string, PictureRef>,
  read: (picture: PictureRef) => Promise<PixelImage | undefined> = decoded,
): Promise<Map<string, PixelImage>> {
  const images = new Map<string, PixelImage>();
  for (const { source } of program.images) {
    const picture = pictures.get(source);
    const image = picture && (await read(picture));
    if (image) images.set(source, image);
  }
  return images;
}
