import { widthOf, type Node, type PixelInput } from '../../ir/node.ts';
import { pixelInput, type FrameInputs } from '../../ir/evaluate.ts';
import type { ImageSource } from '../../image/pixels.ts';
import { BLOCK, compileWasm, type WasmModule } from './compile.ts';
import { WasmMemory } from './memory.ts';

/** Inputs that follow from uv where they are not given. */
const HANGING: ReadonlySet<PixelInput> = new Set(['uv', 'uv2', 'screen', 'position', 'world']);
const ONLY_UV: ReadonlySet<PixelInput> = new Set(['uv']);

/** Where a block of pixels lies: `uv` interleaved; any other input the same way, by its width. */
export interface BlockInputs {
  readonly uv: Float32Array;
  readonly others?: ReadonlyMap<PixelInput, Float32Array>;
}

/** Graphs compiled to WebAssembly, with memory and images: computes all roots for many pixels. */
export class WasmEvaluator {
  readonly #module: WasmModule;
  readonly #memory: WasmMemory;
  readonly #run: (bytes: number) => void;
  /** Pixels of a plane: the most that one run computes. */
  readonly blockSize: number;
  readonly #u: Float32Array;
  readonly #v: Float32Array;
  /** Inputs whose planes hold the same for all pixels. */
  readonly #same = new Set<PixelInput>();

  /** `reserve` bytes of the memory are nobody's. */
  constructor(roots: readonly Node[], images: ImageSource = () => undefined, blockSize = BLOCK, reserve = 0) {
    this.blockSize = blockSize;
    this.#u = new Float32Array(blockSize);
    this.#v = new Float32Array(blockSize);
    this.#module = compileWasm(roots, blockSize);
    this.#memory = new WasmMemory(this.#module.layout, images, reserve);
    this.#run = this.#memory.start(this.#module.bytes).run;
  }

  get memory(): WasmMemory {
    return this.#memory;
  }

  /** All of the memory. */
  get floats(): Float32Array {
    return this.#memory.floats;
  }

  /** Size of the compiled module in bytes. */
  get size(): number {
    return this.#module.bytes.length;
  }

  /** Moves to a moment: computes the per-frame values in float64 and hands them in. */
  setFrame(frame: FrameInputs): void {
    this.#memory.setFrame(frame);
  }

  /** Views of the module's memory: `blockSize` floats of one component of an input, to be filled before `run`. */
  inputPlane(name: PixelInput, component: number): Float32Array | undefined {
    const start = this.#module.layout.inputs.get(name);
    return start === undefined
      ? undefined
      : this.floats.subarray(start / 4 + component * this.blockSize, start / 4 + (component + 1) * this.blockSize);
  }

  /** Where in `floats` the planes of a root begin, one a component, `blockSize` floats each. */
  outputStart(root: number): number {
    return this.#module.layout.outputs[root]! / 4;
  }

  /** The same of one component of a root, filled by `run`. */
  outputPlane(root: number, component: number): Float32Array {
    const start = this.outputStart(root) + component * this.blockSize;
    return this.floats.subarray(start, start + this.blockSize);
  }

  /** Evaluates the first `count` pixels of the planes, at most `blockSize`. Inputs that follow from uv are filled in. */
  run(count: number, given: ReadonlySet<PixelInput> = ONLY_UV): void {
    if (count > this.blockSize)
      throw new RangeError(`A block holds ${String(this.blockSize)} pixels, not ${String(count)}.`);
    const [u, v] = [this.inputPlane('uv', 0) ?? this.#u, this.inputPlane('uv', 1) ?? this.#v];
    for (const name of this.#module.layout.inputs.keys()) {
      if (given.has(name)) this.#same.delete(name);
      else if (!this.#same.has(name)) this.#fill(name, u.subarray(0, count), v.subarray(0, count));
    }
    this.#run(Math.ceil(count / 4) * 16);
  }

  /** What is not given: where it does not hang on uv, for all pixels there may be, until it is given. */
  #fill(name: PixelInput, u: Float32Array, v: Float32Array): void {
    const values = pixelInput({ uv: [0, 0] }, name);
    const planes = values.map((_, c) => this.inputPlane(name, c)!);
    if (!HANGING.has(name)) {
      planes.forEach((plane, c) => plane.fill(values[c]!));
      this.#same.add(name);
      return;
    }
    for (let i = 0; i < u.length; i++) {
      const own = pixelInput({ uv: [u[i]!, v[i]!] }, name);
      for (let c = 0; c < planes.length; c++) planes[c]![i] = own[c]!;
    }
  }

  /** Where u and v of the pixels are to be written; beside the module where it does not read them itself. */
  uvPlanes(): readonly [Float32Array, Float32Array] {
    return [this.inputPlane('uv', 0) ?? this.#u, this.inputPlane('uv', 1) ?? this.#v];
  }

  /**
   * Evaluates the roots at `count` pixels, at most `blockSize`. `out[r]` receives root r's components,
   * interleaved, from `at` pixels on.
   */
  block(inputs: BlockInputs, count: number, out: readonly Float32Array[], at = 0): void {
    const given = new Set<PixelInput>(['uv', ...(inputs.others?.keys() ?? [])]);
    const [u, v] = this.uvPlanes();
    for (let i = 0; i < count; i++) {
      u[i] = inputs.uv[i * 2]!;
      v[i] = inputs.uv[i * 2 + 1]!;
    }
    for (const [name, values] of inputs.others ?? []) {
      const width = values.length / count;
      for (let c = 0; c < width; c++)
        this.inputPlane(name, c)?.set(Array.from({ length: count }, (_, i) => values[i * width + c]!));
    }
    this.run(count, given);
    this.#collect(count, out, at);
  }

  #collect(count: number, out: readonly Float32Array[], at: number): void {
    this.#module.roots.forEach((root, r) => {
      const width: number = widthOf(root.type);
      const target = out[r]!;
      const planes = Array.from({ length: width }, (_, c) => this.outputPlane(r, c));
      if (width === 1) {
        target.set(planes[0]!.subarray(0, count), at);
        return;
      }
      for (let i = 0, to = at * width; i < count; i++) for (let c = 0; c < width; c++) target[to++] = planes[c]![i]!;
    });
  }

  /**
   * Evaluates a grid over the UV square block by block: pixels at their middles, moved by `offset` UV units, rows from
   * the top. After each block the output planes hold `count` pixels from `start` on.
   */
  grid(
    width: number,
    height: number,
    done: (start: number, count: number) => void,
    [du, dv]: readonly [number, number] = [0, 0],
  ): void {
    const [u, v] = this.uvPlanes();
    const row = Float32Array.from({ length: width }, (_, x) => (x + 0.5) / width + du);
    for (let start = 0; start < width * height; start += this.blockSize) {
      const count = Math.min(this.blockSize, width * height - start);
      // Row by row, as far as each reaches into the block.
      for (let i = 0; i < count;) {
        const x = (start + i) % width;
        const y = (start + i - x) / width;
        const run = Math.min(width - x, count - i);
        u.set(row.subarray(x, x + run), i);
        v.fill((y + 0.5) / height + dv, i, i + run);
        i += run;
      }
      this.run(count);
      done(start, count);
    }
  }

  /** The same grid as pictures, one array a root, its components interleaved. */
  picture(width: number, height: number, offset?: readonly [number, number]): Float32Array[] {
    const out = this.#module.roots.map((root) => new Float32Array(width * height * widthOf(root.type)));
    this.grid(
      width,
      height,
      (start, count) => {
        this.#collect(count, out, start);
      },
      offset,
    );
    return out;
  }
}
