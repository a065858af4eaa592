import { WasmEvaluator } from '../backends/wasm/run.ts';
import { BLOCK } from '../backends/wasm/compile.ts';
import type { ImageSource } from '../image/pixels.ts';
import type { Channel, Program } from '../check/program.ts';
import type { SettingValues } from '../check/values.ts';
import { compileOrThrow } from '../compile.ts';
import { widthOf, type Node } from '../ir/node.ts';
import { fromSrgb, toSrgb } from '../ops/value-type.ts';

/** Longest side of a baked picture, in pixels. */
export const BAKE_SIDE_LIMIT = 8192;
/** Most samples along each side of a pixel. */
export const SAMPLE_LIMIT = 8;

export interface BakeOptions {
  readonly channel: Channel;
  /** In pixels. */
  readonly width: number;
  readonly height: number;
  /** n by n samples a pixel, evenly spread, averaged in linear light. */
  readonly samples: number;
  /** Bits a channel; 8 where nothing is said. */
  readonly bits?: 8 | 16;
  /** Colours are multiplied by their alpha, in linear light. */
  readonly premultiply?: boolean;
}

/**
 * Computes frames of one channel of a material as RGBA of 8 bits, or of 16 with the high byte first, rows from the top. Colour and emissive are
 * sRGB with straight alpha (the opacity, where the surface is not opaque), or multiplied by it; a normal is packed from -1..1;
 * the rest is grey, 0..1 as it is.
 */
export class Baker {
  readonly #evaluator: WasmEvaluator;
  readonly #planes: readonly Float32Array[];
  readonly #opacity: Float32Array | undefined;
  readonly #colors: boolean;

  /** Undefined where the material does not put out the channel. Throws where it has errors, limits included. */
  static of(program: Program, values: SettingValues, options: BakeOptions, images: ImageSource): Baker | undefined {
    const { graph } = compileOrThrow(program, { values });
    const root = graph.outputs.get(options.channel);
    if (!root) return undefined;
    const opacity =
      program.surface.mode === 'opaque' || options.channel !== 'color' ? undefined : graph.outputs.get('opacity');
    return new Baker(program, values, options, opacity ? [root, opacity] : [root], images);
  }

  private constructor(
    readonly program: Program,
    readonly values: SettingValues,
    readonly options: BakeOptions,
    roots: readonly Node[],
    images: ImageSource,
  ) {
    this.#evaluator = new WasmEvaluator(roots, images);
    this.#planes = Array.from({ length: widthOf(roots[0]!.type) }, (_, c) => this.#evaluator.outputPlane(0, c));
    this.#opacity = roots[1] && this.#evaluator.outputPlane(1, 0);
    this.#colors = options.channel === 'color' || options.channel === 'emissive';
  }

  /** One frame, counted from 0; a loop of N has frames 0 to N - 1, and any other number is a moment beyond it. */
  frame(index: number): Uint8Array<ArrayBuffer> {
    return this.rows(index, 0, this.options.height);
  }

  /** Rows of a frame, from `first` up to `end`. */
  rows(index: number, first: number, end: number): Uint8Array<ArrayBuffer> {
    const { width, height, samples } = this.options;
    this.#evaluator.setFrame({ time: index / this.program.loop.fps, dials: this.values.dials });
    const result = new Uint8Array(width * (end - first) * this.bytesPerPixel);
    const perPixel = samples * samples;
    const pixels = Math.max(1, Math.floor(BLOCK / perPixel));
    const [u, v] = this.#evaluator.uvPlanes();
    for (let start = first * width; start < end * width; start += pixels) {
      const count = Math.min(pixels, end * width - start);
      for (let i = 0, s = 0, x = start % width, y = (start - x) / width; i < count * perPixel; i++) {
        const dx = s % samples;
        u[i] = (x + (dx + 0.5) / samples) / width;
        v[i] = (y + ((s - dx) / samples + 0.5) / samples) / height;
        if (++s < perPixel) continue;
        s = 0;
        if (++x === width) {
          x = 0;
          y++;
        }
      }
      this.#evaluator.run(count * perPixel);
      for (let i = 0; i < count; i++) this.#pixel(i * perPixel, perPixel, result, start - first * width + i);
    }
    return result;
  }

  /** Bytes of a pixel. */
  get bytesPerPixel(): number {
    return this.options.bits === 16 ? 8 : 4;
  }

  /** Writes the mean of a pixel's samples as the `index`th pixel. Colours are weighed by their alpha. */
  #pixel(from: number, count: number, result: Uint8Array, index: number): void {
    const [r, g, b, a] = this.#planes as [
      Float32Array,
      Float32Array | undefined,
      Float32Array | undefined,
      Float32Array | undefined,
    ];
    const solid = this.program.surface.mode === 'opaque';
    let [x, y, z, w] = [0, 0, 0, 0];
    for (let s = from; s < from + count; s++) {
      const alpha = this.#colors ? clamped(this.#opacity ? this.#opacity[s]! : solid ? 1 : a![s]!) : 1;
      if (this.#colors) {
        x += clamped(r[s]!) * alpha;
        y += clamped(g![s]!) * alpha;
        z += clamped(b![s]!) * alpha;
        w += alpha;
      } else {
        x += r[s]!;
        y += g ? g[s]! : 0;
        z += b ? b[s]! : 0;
      }
    }
    if (this.#colors) {
      if (w === 0) return;
      const weight = this.options.premultiply ? count : w;
      if (this.options.bits === 16) {
        const level = (v: number): number => toSrgb(clamped(v / weight)) * 65535;
        writeWords(result, index, level(x), level(y), level(z), (w / count) * 65535);
        return;
      }
      const to = index * 4;
      result[to] = srgbByte(x / weight);
      result[to + 1] = srgbByte(y / weight);
      result[to + 2] = srgbByte(z / weight);
      result[to + 3] = Math.round((w / count) * 255);
      return;
    }
    const width = this.#planes.length;
    const most = this.options.bits === 16 ? 65535 : 255;
    const packed = (v: number): number => Math.round(clamped(width === 1 ? v / count : (v / count) * 0.5 + 0.5) * most);
    const [red, green, blue] = [packed(x), packed(width === 1 ? x : y), packed(width === 1 ? x : z)];
    if (most === 65535) writeWords(result, index, red, green, blue, most);
    else result.set([red, green, blue, most], index * 4);
  }
}

/** Writes a pixel of 16 bits a channel, each rounded, the high byte first. */
function writeWords(result: Uint8Array, index: number, ...words: readonly [number, number, number, number]): void {
  words.forEach((word, i) => {
    const rounded = Math.round(word);
    result[index * 8 + i * 2] = rounded >>> 8;
    result[index * 8 + i * 2 + 1] = rounded & 255;
  });
}

const clamped = (v: number): number => Math.min(Math.max(v, 0), 1);

/** The least linear value that rounds to each byte of sRGB. */
const THRESHOLDS = Float64Array.from({ length: 257 }, (_, byte) =>
  byte === 0 ? -1 : byte === 256 ? 2 : fromSrgb((byte - 0.5) / 255),
);
/** The byte at each step of linear light, from which the right one is at most a few steps up. */
const NEAR = Uint8Array.from({ length: 4097 }, (_, i) => Math.round(toSrgb(i / 4096) * 255 - 0.5));

/** Linear 0..1 as a byte of sRGB, rounded. */
function srgbByte(value: number): number {
  const v = clamped(value);
  let byte = NEAR[Math.floor(v * 4096)]!;
  while (byte > 0 && v < THRESHOLDS[byte]!) byte--;
  while (v >= THRESHOLDS[byte + 1]!) byte++;
  return byte;
}
