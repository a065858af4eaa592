import { testGrid } from '../../image/test-grid.ts';
import { frameEvaluator, type FrameInputs } from '../../ir/evaluate.ts';
import type { ImageSlot, Node } from '../../ir/node.ts';
import type { ImageSource, PixelImage } from '../../image/pixels.ts';
import { fromSrgb } from '../../ops/srgb.ts';

/** What modules export; see GridModule of those of a grid. */
type Exports = Readonly<
  Record<'run' | 'frame' | 'dials' | 'columns' | 'row' | 'still' | 'pixels' | 'weave', (...bytes: number[]) => void>
>;

/** What core uses of the host's WebAssembly; core itself is written against no host. */
interface WasmHost {
  readonly Module: new (bytes: Uint8Array<ArrayBuffer>) => object;
  readonly Instance: new (module: object, imports: object) => { readonly exports: Exports };
  readonly Memory: new (size: { initial: number }) => { readonly buffer: ArrayBuffer };
}
const host = (globalThis as unknown as { WebAssembly: WasmHost }).WebAssembly;

const PAGE = 65536;

/** An image's texels as floats, decoded as its slot says: linear light for colours. */
export function decodeTexels(image: PixelImage, slot: ImageSlot): Float32Array {
  const max = image.data instanceof Uint16Array ? 65535 : 255;
  const table = Float32Array.from({ length: max + 1 }, (_, i) =>
    slot.encoding === 'color' ? fromSrgb(i / max) : i / max,
  );
  const texels = new Float32Array(image.width * image.height * 4);
  for (let i = 0; i < texels.length; i++) texels[i] = i % 4 === 3 ? image.data[i]! / max : table[image.data[i]!]!;
  return texels;
}

/** Bytes of decoded texels that are kept for the next evaluator of the same images. */
const KEPT = 128 * 1024 * 1024;
/** The last used stand last. */
let decoded: readonly { readonly image: PixelImage; readonly color: boolean; readonly texels: Float32Array }[] = [];

/**
 * An image's texels, decoded once for several evaluators in a row; only so many are kept, since floats take four times
 * the room of bytes.
 */
function texelsOf(image: PixelImage, slot: ImageSlot): Float32Array {
  const color = slot.encoding === 'color';
  const known = decoded.find((d) => d.image === image && d.color === color);
  const entry = known ?? { image, color, texels: decodeTexels(image, slot) };
  const kept = [...decoded.filter((d) => d !== known), entry];
  let total = kept.reduce((sum, d) => sum + d.texels.byteLength, 0);
  while (total > KEPT) total -= kept.shift()!.texels.byteLength;
  decoded = kept;
  return entry.texels;
}

/** Where the parts of a module lie that the host fills, in bytes. */
export interface MemoryLayout {
  /** Values of a moment, four equal lanes for each component. */
  readonly frame: ReadonlyMap<Node, number>;
  readonly images: readonly { readonly slot: ImageSlot; readonly header: number }[];
  /** Vectors of four equal lanes that the code loads. */
  readonly constants: readonly { readonly bits: number; readonly address: number }[];
  /** First byte that is free for texels. */
  readonly end: number;
}

/** The memory of a module, with its constants and images in it. */
export class WasmMemory {
  readonly #memory: { readonly buffer: ArrayBuffer };
  /** All of it. */
  readonly floats: Float32Array;
  readonly #words: Int32Array;
  /** Where bytes begin that are nobody's. */
  readonly reserved: number;

  readonly #places: ReadonlyMap<Node, number>;
  readonly #values: ReturnType<typeof frameEvaluator>;

  /** With so many bytes behind everything that are nobody's. */
  constructor({ frame, images, constants, end: first }: MemoryLayout, sources: ImageSource, reserve: number) {
    this.#places = frame;
    this.#values = frameEvaluator([...frame.keys()]);
    const loaded = images.map(({ slot, header }) => {
      const image = sources(slot) ?? testGrid();
      return { header, image, texels: texelsOf(image, slot) };
    });
    let end = Math.ceil(first / 16) * 16;
    const starts = loaded.map(({ texels }) => {
      const at = end;
      end += texels.byteLength;
      return at;
    });
    this.reserved = end;
    this.#memory = new host.Memory({ initial: Math.ceil((end + reserve) / PAGE) });
    this.floats = new Float32Array(this.#memory.buffer);
    this.#words = new Int32Array(this.#memory.buffer);
    for (const { bits, address } of constants) this.#words.fill(bits, address / 4, address / 4 + 4);
    loaded.forEach(({ header, image, texels }, i) => {
      this.#words[header / 4] = starts[i]!;
      [image.width, image.height, 1 / image.width, 1 / image.height].forEach((size, place) => {
        this.floats.fill(size, header / 4 + 4 + place * 4, header / 4 + 8 + place * 4);
      });
      this.floats.set(texels, starts[i]! / 4);
    });
  }

  /** All of it, in bytes. */
  get bytes(): Uint8Array<ArrayBuffer> {
    return new Uint8Array(this.#memory.buffer);
  }

  /** What a module over this memory exports: one `run`, or what a grid is computed by. */
  start(module: Uint8Array<ArrayBuffer>): Exports {
    return new host.Instance(new host.Module(module), { host: { memory: this.#memory } }).exports;
  }

  /** Writes the values of a moment, computed in float64, where the code reads them. */
  setFrame(frame: FrameInputs): void {
    const values = this.#values(frame);
    for (const [node, at] of this.#places) {
      (values.get(node) ?? []).forEach((value, i) => {
        const place = at / 4 + i * 4;
        if (node.type.startsWith('f')) this.floats.fill(value, place, place + 4);
        else this.#words.fill(node.type.startsWith('b') ? (value === 0 ? 0 : -1) : value | 0, place, place + 4);
      });
    }
  }
}
