import type { ImageSource } from '../../../image/pixels.ts';
import type { FrameInputs } from '../../../ir/evaluate.ts';
import type { Node } from '../../../ir/node.ts';
import { WasmMemory } from '../memory.ts';
import type { Rows } from '../rows.ts';
import { inFours } from './tables.ts';
import { TooManyTerms } from './terms.ts';
import { compileGrid, type GridModule } from './module.ts';
import type { GridPasses } from './plan.ts';

export interface GridOptions {
  /** Pixels of a row. */
  readonly width: number;
  /** Rows of a frame that are computed one after the other; as many as there are pixels in one where nothing is said. */
  readonly rows?: number;
  /** Of which so many rows are computed with the same dials: with several, what does not move is kept. 1 where nothing is said. */
  readonly frames?: number;
  /** Bytes behind everything that are nobody's. */
  readonly reserve?: number;
  readonly passes?: GridPasses;
}

/** Computes graphs row by row over a grid whose width is known, flat and seen straight on. */
export class GridEvaluator implements Rows {
  readonly width: number;
  readonly #module: GridModule;
  readonly #memory: WasmMemory;
  readonly #run: ReturnType<WasmMemory['start']>;
  readonly #bytes: number;
  #time: number | undefined;
  #dials = '';
  /** Columns wait for the frame that they hang on. */
  #isNew = true;
  /** The heights of rows that are kept, by their number. */
  readonly #kept: Float64Array;

  /** Undefined where the graphs would take too much code. */
  static of(...given: ConstructorParameters<typeof GridEvaluator>): GridEvaluator | undefined {
    try {
      return new GridEvaluator(...given);
    } catch (error) {
      if (error instanceof TooManyTerms) return undefined;
      throw error;
    }
  }

  /** Throws TooManyTerms where the graphs would take too much code. */
  constructor(
    roots: readonly Node[],
    images: ImageSource,
    { width, rows = width, frames = 1, reserve = 0, passes }: GridOptions,
  ) {
    this.width = width;
    this.#module = compileGrid(roots, { width, rows, frames }, passes);
    const { layout, bytes } = this.#module;
    this.#memory = new WasmMemory(layout, images, reserve);
    this.#run = this.#memory.start(bytes);
    this.#bytes = inFours(width) * 4;
    this.#kept = new Float64Array(Math.max(0, layout.still.rows - 1)).fill(NaN);
    const { floats } = this.#memory;
    for (let x = 0; x < width; x++) floats[layout.u / 4 + x] = (x + 0.5) / width;
    for (let i = 0; i < layout.numbers.most; i++) floats[layout.numbers.at / 4 + i] = i;
  }

  get memory(): WasmMemory {
    return this.#memory;
  }

  setFrame(frame: FrameInputs): void {
    const dials = [...frame.dials].map(([name, value]) => `${name} ${value.join(' ')}`).join();
    const isSame = dials === this.#dials && this.#time !== undefined;
    if (isSame && Object.is(this.#time, frame.time)) return;
    this.#memory.setFrame(frame);
    this.#run.frame();
    this.#isNew = true;
    this.#time = frame.time;
    if (isSame) return;
    this.#dials = dials;
    this.#kept.fill(NaN);
    this.#run.dials();
  }

  outputPlane(root: number, component: number): Float32Array {
    const start = this.#module.layout.outputs[root]![component]! / 4;
    return this.#memory.floats.subarray(start, start + this.#bytes / 4);
  }

  row(v: number, number = -1): void {
    if (this.#isNew) this.#run.columns(this.#bytes);
    this.#isNew = false;
    const { floats } = this.#memory;
    const at = this.#module.layout.v / 4;
    // One by one: calling `fill` for four takes as long as computing a few pixels.
    floats[at] = floats[at + 1] = floats[at + 2] = floats[at + 3] = v;
    this.#run.row();
    const { rowBytes } = this.#module.layout.still;
    const isKept = number >= 0 && number < this.#kept.length;
    const place = isKept ? (number + 1) * rowBytes : 0;
    if (rowBytes > 0 && !(isKept && this.#kept[number] === v)) {
      this.#run.still(this.#bytes, place);
      if (isKept) this.#kept[number] = v;
    }
    this.#run.pixels(this.#bytes, place);
  }

  picture(
    width: number,
    height: number,
    into: readonly Float32Array[] = this.#module.layout.woven.map(
      ({ planes }) => new Float32Array(width * height * planes.length),
    ),
  ): readonly Float32Array[] {
    if (width !== this.width) throw new RangeError(`Rows are ${String(this.width)} pixels wide, not ${String(width)}.`);
    const rows = this.#module.layout.woven.map(({ at, planes }) =>
      this.#memory.floats.subarray(at / 4, at / 4 + width * planes.length),
    );
    const isWoven = this.#module.layout.woven.some(({ planes }) => planes.length > 1);
    for (let y = 0; y < height; y++) {
      this.row((y + 0.5) / height, y);
      if (isWoven) this.#run.weave(this.#bytes);
      for (let r = 0; r < rows.length; r++) into[r]!.set(rows[r]!, y * rows[r]!.length);
    }
    return into;
  }
}
