import { WasmEvaluator } from '../backends/wasm/run.ts';
import { rowsOf, type Rows } from '../backends/wasm/rows.ts';
import { BLOCK } from '../backends/wasm/compile.ts';
import { encodeByteStore, SRGB_TABLE_BYTES, srgbTable, type ByteChannel } from '../backends/wasm/store-bytes.ts';
import { srgbByte } from '../ops/srgb.ts';
import type { ImageSource } from '../image/pixels.ts';
import type { Channel, Program } from '../check/program.ts';
import type { SettingValues } from '../check/values.ts';
import { compileOrThrow } from '../compile.ts';
import { widthOf, type Node } from '../ir/node.ts';
import { toSrgb } from '../ops/srgb.ts';
import { isColor, isSrgb, outputsOf, plainPack, type Pack } from './pack.ts';

/** Longest side of a baked picture, in pixels. */
export const BAKE_SIDE_LIMIT = 8192;
/** Most samples along each side of a pixel. */
export const SAMPLE_LIMIT = 8;

export interface BakeOptions {
  /** An output by itself, or what stands in each channel. */
  readonly output: Channel | Pack;
  /** In pixels. */
  readonly width: number;
  readonly height: number;
  /** n by n samples a pixel, evenly spread, averaged in linear light. */
  readonly samples: number;
  /** Bits a channel; 8 where nothing is said. */
  readonly bits?: 8 | 16;
  /** Colours are multiplied by their alpha, in linear light. */
  readonly premultiply?: boolean;
  /** Colours whose light is stored as it is, not as sRGB. */
  readonly linear?: readonly Channel[];
  /** Where green of a normal points; up where nothing is said. */
  readonly normalY?: 'up' | 'down';
}

/** An output as it is computed: planes of its components, and of what covers the surface where that is another output. */
interface Computed {
  readonly planes: readonly Float32Array[];
  readonly cover: Float32Array | undefined;
  readonly color: boolean;
  /** Components are -1..1. */
  readonly signed: boolean;
}

/** Stores pixels of one sample each in bytes. */
interface Storing {
  readonly run: (bytes: number) => void;
  /** Where `run` puts them. */
  readonly out: Uint8Array;
}

/** Where a channel of a picture comes from: a place among the values of a pixel, and how it is stored. */
interface Place {
  readonly at: number;
  readonly srgb: boolean;
}

/**
 * Computes frames of outputs of a material as RGBA of 8 bits, or of 16 with the high byte first, rows from the top.
 * Colours are sRGB, or linear light by choice, with straight alpha (the opacity, where the surface is not opaque), or
 * multiplied by it; a normal is packed from -1..1; the rest is 0..1 as it is, by itself as grey.
 */
export class Baker {
  readonly #evaluator: WasmEvaluator | Rows;
  readonly #outputs: readonly Computed[];
  readonly #places: readonly Place[];
  /** Of a pixel: four of each output, then what is the same everywhere. */
  readonly #values: Float64Array;
  /** A picture of a colour: what it does not cover is 0 throughout. */
  readonly #clears: boolean;
  /** How pixels of one sample are stored in bytes; undefined where they are not. */
  readonly #storing: Storing | undefined;

  /**
   * For so many frames, about. Undefined where the material does not put out what is asked for. Throws where it has errors,
   * limits included.
   */
  static of(
    program: Program,
    values: SettingValues,
    options: BakeOptions,
    images: ImageSource,
    frames = 1,
  ): Baker | undefined {
    const { graph } = compileOrThrow(program, { values });
    const pack = typeof options.output === 'string' ? plainPack(options.output) : options.output;
    if (!outputsOf(pack).every((output) => graph.outputs.has(output))) return undefined;
    return new Baker(program, values, options, pack, graph.outputs, images, frames);
  }

  private constructor(
    readonly program: Program,
    readonly values: SettingValues,
    readonly options: BakeOptions,
    pack: Pack,
    nodes: ReadonlyMap<string, Node>,
    images: ImageSource,
    frames: number,
  ) {
    const outputs = outputsOf(pack);
    const opacity = program.surface.mode !== 'opaque' && outputs.includes('color') ? nodes.get('opacity') : undefined;
    const roots = [...outputs.map((output) => nodes.get(output)!), ...(opacity ? [opacity] : [])];
    const bytes = options.samples === 1 && options.bits !== 16;
    const reserve = bytes ? SRGB_TABLE_BYTES + this.#stored * 4 : 0;
    const { width, height } = options;
    this.#evaluator =
      options.samples === 1
        ? rowsOf(roots, images, { width, rows: height, frames, reserve })
        : new WasmEvaluator(roots, images, BLOCK, reserve);
    const cover = opacity && this.#evaluator.outputPlane(outputs.length, 0);
    this.#outputs = outputs.map((output, i) => ({
      planes: Array.from({ length: widthOf(roots[i]!.type) }, (_, c) => this.#evaluator.outputPlane(i, c)),
      cover: output === 'color' ? cover : undefined,
      color: isColor(output),
      signed: output === 'normal',
    }));
    const constants = pack.flatMap((pick) => ('value' in pick ? [pick.value] : []));
    this.#values = Float64Array.of(...outputs.flatMap(() => [0, 0, 0, 0]), ...constants);
    let constant = outputs.length * 4;
    this.#places = pack.map((pick) =>
      'value' in pick
        ? { at: constant++, srgb: false }
        : {
            at: outputs.indexOf(pick.output) * 4 + pick.component,
            srgb: isSrgb(pick, options.linear),
          },
    );
    this.#clears = typeof options.output === 'string' && isColor(options.output);
    this.#storing = bytes ? this.#storingOf(pack, outputs) : undefined;
  }

  #storingOf(pack: Pack, outputs: readonly Channel[]): Storing {
    const solid = this.program.surface.mode === 'opaque';
    const { reserved: table } = this.#evaluator.memory;
    const out = table + SRGB_TABLE_BYTES;
    const covers = this.#outputs.map(({ cover, planes, color }) =>
      color && !solid ? (cover ?? planes[3]) : undefined,
    );
    const channels = pack.map((pick, c): ByteChannel => {
      if ('value' in pick) return { kind: 'constant', byte: Math.round(clamped(pick.value) * 255) };
      const index = outputs.indexOf(pick.output);
      const { planes, color, signed } = this.#outputs[index]!;
      const cover = covers[index]?.byteOffset;
      if (color && pick.component === 3)
        return cover === undefined ? { kind: 'constant', byte: 255 } : { kind: 'plain', plane: cover };
      const plane = planes[pick.component]!.byteOffset;
      if (signed)
        return { kind: 'signed', plane, sign: this.options.normalY === 'down' && pick.component === 1 ? -1 : 1 };
      if (!color) return { kind: 'plain', plane };
      return {
        kind: this.#places[c]!.srgb ? 'srgb' : 'light',
        plane,
        times: this.options.premultiply ? cover : undefined,
      };
    });
    const clear = this.#clears ? covers[0]?.byteOffset : undefined;
    const module = encodeByteStore({ channels, clear, out, table });
    const { bytes } = this.#evaluator.memory;
    bytes.set(srgbTable(), table);
    return { run: this.#evaluator.memory.start(module).run, out: bytes.subarray(out, out + this.#stored * 4) };
  }

  /** Pixels that are stored at once: a row, in fours. */
  get #stored(): number {
    return Math.ceil(this.options.width / 4) * 4;
  }

  /** One frame, counted from 0; a loop of N has frames 0 to N - 1, and any other number is a moment beyond or between. */
  frame(index: number): Uint8Array<ArrayBuffer> {
    return this.rows(index, 0, this.options.height);
  }

  /** Rows of a frame, from `first` up to `end`. */
  rows(index: number, first: number, end: number): Uint8Array<ArrayBuffer> {
    const { width } = this.options;
    const result = new Uint8Array(width * (end - first) * this.bytesPerPixel);
    const evaluator = this.#evaluator;
    evaluator.setFrame({ time: index / this.program.loop.fps, dials: this.values.dials });
    if (evaluator instanceof WasmEvaluator) this.#blockRows(evaluator, first, end, result);
    else this.#singleRows(evaluator, first, end, result);
    return result;
  }

  #singleRows(rows: Rows, first: number, end: number, result: Uint8Array): void {
    const { width, height } = this.options;
    const storing = this.#storing;
    for (let y = first; y < end; y++) {
      rows.row((y + 0.5) / height, y);
      const at = (y - first) * width;
      if (storing) {
        storing.run(Math.ceil(width / 4) * 16);
        result.set(storing.out.subarray(0, width * 4), at * 4);
      } else for (let x = 0; x < width; x++) this.#pixel(x, 1, result, at + x);
    }
  }

  /** Pixels of several samples: in blocks, one after the other. */
  #blockRows(evaluator: WasmEvaluator, first: number, end: number, result: Uint8Array): void {
    const { width, height, samples } = this.options;
    const perPixel = samples * samples;
    const pixels = Math.max(1, Math.floor(BLOCK / perPixel));
    const [u, v] = evaluator.uvPlanes();
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
      evaluator.run(count * perPixel);
      for (let i = 0; i < count; i++) this.#pixel(i * perPixel, perPixel, result, start - first * width + i);
    }
  }

  /** Bytes of a pixel. */
  get bytesPerPixel(): number {
    return this.options.bits === 16 ? 8 : 4;
  }

  /** Writes the mean of a pixel's samples as the `index`th pixel. */
  #pixel(from: number, count: number, result: Uint8Array, index: number): void {
    for (let o = 0; o < this.#outputs.length; o++) {
      const output = this.#outputs[o]!;
      if (output.color) this.#color(output, o * 4, from, count);
      else this.#data(output, o * 4, from, count);
    }
    if (this.#clears && this.#values[3] === 0) return;
    const fine = this.options.bits === 16;
    for (let c = 0; c < 4; c++) {
      const { at, srgb } = this.#places[c]!;
      const value = this.#values[at]!;
      if (fine) {
        const word = Math.round((srgb ? toSrgb(clamped(value)) : clamped(value)) * 65535);
        result[index * 8 + c * 2] = word >>> 8;
        result[index * 8 + c * 2 + 1] = word & 255;
      } else result[index * 4 + c] = srgb ? srgbByte(value) : Math.round(clamped(value) * 255);
    }
  }

  /** The mean of a colour, its samples weighed by their alpha, and of that. */
  #color({ planes, cover }: Computed, at: number, from: number, count: number): void {
    const [r, g, b, a] = planes as [Float32Array, Float32Array, Float32Array, Float32Array];
    const solid = this.program.surface.mode === 'opaque';
    let [x, y, z, w] = [0, 0, 0, 0];
    for (let s = from; s < from + count; s++) {
      const alpha = clamped(cover ? cover[s]! : solid ? 1 : a[s]!);
      x += clamped(r[s]!) * alpha;
      y += clamped(g[s]!) * alpha;
      z += clamped(b[s]!) * alpha;
      w += alpha;
    }
    const weight = w === 0 || this.options.premultiply ? count : w;
    const values = this.#values;
    values[at] = x / weight;
    values[at + 1] = y / weight;
    values[at + 2] = z / weight;
    values[at + 3] = w / count;
  }

  #data({ planes, signed }: Computed, at: number, from: number, count: number): void {
    const flip = signed && this.options.normalY === 'down';
    for (let c = 0; c < planes.length; c++) {
      const plane = planes[c]!;
      let sum = 0;
      for (let s = from; s < from + count; s++) sum += plane[s]!;
      const mean = flip && c === 1 ? -sum / count : sum / count;
      this.#values[at + c] = signed ? mean * 0.5 + 0.5 : mean;
    }
  }
}

/** Held to 0..1; comparisons alone, as it is asked for each sample. */
const clamped = (v: number): number => (v > 0 ? (v < 1 ? v : 1) : 0);
