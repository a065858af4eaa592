import { Decoder, type DecodedImage } from '@estela/codecs';
import jpegModule from '@jsquash/jpeg/codec/dec/mozjpeg_dec.wasm?url';
import webpModule from '@jsquash/webp/codec/dec/webp_dec.wasm?url';
import PQueue from 'p-queue';
import type { PictureRef } from './decoded.ts';
import { sha256 } from './sha256.ts';

const ADDRESSES = { jpeg: jpegModule, webp: webpModule } as const;
const decoder = new Decoder(async (name) => WebAssembly.compileStreaming(fetch(ADDRESSES[name])));

/** One picture is decoded at a time, the most urgent first. */
const queue = new PQueue({ concurrency: 1 });

/** Pixels that all workers can read without a copy, where the browser lets them. */
function shared(image: DecodedImage): DecodedImage {
  if (!crossOriginIsolated) return image;
  const { data } = image;
  const memory = new SharedArrayBuffer(data.byteLength);
  const copy = data instanceof Uint16Array ? new Uint16Array(memory) : new Uint8Array(memory);
  copy.set(data);
  return { ...image, data: copy };
}

const decode = (bytes: Uint8Array<ArrayBuffer>, urgency: number): Promise<DecodedImage> =>
  queue.add(async () => shared(await decoder.decode(bytes)), { priority: urgency });

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
export function decoded({ hash, address }: PictureRef, urgency: number): Promise<DecodedImage> {
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
      if (!response.ok) throw new Error('The picture cannot be loaded.');
      return decode(new Uint8Array(await response.arrayBuffer()), urgency);
    })(),
  );
}

/** Decodes bytes that are not stored yet, and keeps them under their hash. */
export async function decodeNew(bytes: Uint8Array<ArrayBuffer>, urgency: number): Promise<DecodedImage> {
  const hash = await sha256(bytes);
  return kept.get(hash) ?? keep(hash, decode(bytes, urgency));
}
