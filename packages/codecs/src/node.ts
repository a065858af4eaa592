import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { Decoder, type LoadModule } from './decode.ts';

export { packageHost, packageImage } from './package.ts';

/** The WebAssembly decoders give their pixels as the browser's ImageData, which Node has not. */
class Pixels {
  constructor(
    readonly data: Uint8ClampedArray,
    readonly width: number,
    readonly height: number,
  ) {}
}

const FILES = {
  jpeg: '@jsquash/jpeg/codec/dec/mozjpeg_dec.wasm',
  webp: '@jsquash/webp/codec/dec/webp_dec.wasm',
} as const;

const load: LoadModule = async (name) =>
  WebAssembly.compile(await readFile(createRequire(import.meta.url).resolve(FILES[name])));

/** A decoder for Node, whose WebAssembly parts are read from their packages. */
export function nodeDecoder(): Decoder {
  const place = globalThis as { ImageData?: unknown };
  place.ImageData ??= Pixels;
  return new Decoder(load);
}
