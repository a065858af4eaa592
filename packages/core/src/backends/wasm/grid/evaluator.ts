import type { ImageSource } from '../../../image/pixels.ts';
import type { FrameInputs } from '../../../ir/evaluate.ts';
import type { Node } from '../../../ir/node.ts';
import { WasmMemory } from '../memory.ts';
import { TooManyTerms } from './terms.ts';
import { compileGrid, type GridModule, type GridPasses } from './module.ts';

/** Computes graphs row by row over a grid whose width is known, flat and seen straight on. */
export class GridEvaluator {
  readonly #module: GridModule;
  readonly #memory: WasmMemory;
  readonly #run: Readonly<Record<'frame' | 'columns' | 'row' | 'pixels', (...bytes: number[]) => void>>;
  readonly #bytes: number;
  /** Columns wait for the frame that they hang on. */
  #isNew = true;

  /** Undefined where the graphs would take too much code. */
  static of(...given: ConstructorParameters<typeof GridEvaluator>): GridEvaluator | undefined {
    try {
      return new GridEvaluator(...given);
    } catch (error) {
      if (error instanceof TooManyTerms) return undefined;
      throw error;
    }
  }

  /** Throws TooManyTerms where the graphs would take too much code. `reserve` bytes behind everything are nobody's. */
  constructor(
    roots: readonly Node[],
    images: ImageSource,
    readonly width: number,
    reserve = 0,
    passes: GridPasses = {},
  ) {
    this.#module = compileGrid(roots, width, passes);
    const { layout, bytes } = this.#module;
    this.#memory = new WasmMemory(layout, images, reserve);
    this.#run = this.#memory.start(bytes);
    this.#bytes = Math.ceil(width / 4) * 16;
    const { floats } = this.#memory;
    for (let x = 0; x < width; x++) {
      floats[layout.u / 4 + x] = (x + 0.5) / width;
      floats[layout.numbers / 4 + x] = x;
    }
  }

  get memory(): WasmMemory {
    return this.#memory;
  }

  setFrame(frame: FrameInputs): void {
    this.#memory.setFrame(this.#module.layout.frame, frame);
    this.#run.frame();
    this.#isNew = true;
  }

  /** One component of a root over the row that was computed last. */
  outputPlane(root: number, component: number): Float32Array {
    const start = this.#module.layout.outputs[root]![component]! / 4;
    return this.#memory.floats.subarray(start, start + this.#bytes / 4);
  }

  /** Computes a row at v, 0..1 from the top. */
  row(v: number): void {
    if (this.#isNew) this.#run.columns(this.#bytes);
    this.#isNew = false;
    const at = this.#module.layout.v / 4;
    this.#memory.floats.fill(v, at, at + 4);
    this.#run.row();
    this.#run.pixels(this.#bytes);
  }

  /** A picture of `width` by `height` pixels: one array a root, its components interleaved. */
  picture(width: number, height: number): Float32Array[] {
    if (width !== this.width) throw new RangeError(`Rows are ${String(this.width)} pixels wide, not ${String(width)}.`);
    const all = this.#module.layout.outputs.map((result) => new Float32Array(width * height * result.length));
    const planes = this.#module.layout.outputs.map((result, r) => result.map((_, c) => this.outputPlane(r, c)));
    for (let y = 0; y < height; y++) {
      this.row((y + 0.5) / height);
      all.forEach((out, r) => {
        const count = planes[r]!.length;
        const at = y * width * count;
        if (count === 1) out.set(planes[r]![0]!.subarray(0, width), at);
        // One component after the other: a loop over planes within the one over pixels takes several times as long.
        else
          planes[r]!.forEach((plane, c) => {
            for (let x = 0, to = at + c; x < width; x++, to += count) out[to] = plane[x]!;
          });
      });
    }
    return all;
  }
}
