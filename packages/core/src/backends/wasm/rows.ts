import type { ImageSource } from '../../image/pixels.ts';
import type { FrameInputs } from '../../ir/evaluate.ts';
import type { Node } from '../../ir/node.ts';
import { MAKING_PIXELS } from './grid/costs.ts';
import { GridEvaluator, type GridOptions } from './grid/evaluator.ts';
import type { WasmMemory } from './memory.ts';
import { WasmEvaluator } from './run.ts';

/** Computes graphs row by row over the UV square, flat and seen straight on. */
export interface Rows {
  readonly memory: WasmMemory;
  setFrame(frame: FrameInputs): void;
  /** Computes a row at v, 0..1 from the top; what of it is kept for other frames has its number, of rows from 0. */
  row(v: number, number?: number): void;
  /** One component of a root over the row that was computed last. */
  outputPlane(root: number, component: number): Float32Array;
  /** A picture of as many rows: one array a root, its components interleaved; those of `into` where they are given. */
  picture(width: number, height: number, into?: readonly Float32Array[]): readonly Float32Array[];
}

/** Rows of pixels that are computed one by one: it is there at once. */
class ScatteredRows implements Rows {
  readonly #evaluator: WasmEvaluator;
  readonly #v: Float32Array;

  constructor(
    roots: readonly Node[],
    images: ImageSource,
    readonly width: number,
    reserve: number,
  ) {
    this.#evaluator = new WasmEvaluator(roots, images, Math.ceil(width / 4) * 4, reserve);
    const [u, v] = this.#evaluator.uvPlanes();
    this.#v = v;
    for (let x = 0; x < width; x++) u[x] = (x + 0.5) / width;
  }

  get memory(): WasmMemory {
    return this.#evaluator.memory;
  }

  setFrame(frame: FrameInputs): void {
    this.#evaluator.setFrame(frame);
  }

  row(v: number): void {
    this.#v.fill(v, 0, this.width);
    this.#evaluator.run(this.width);
  }

  outputPlane(root: number, component: number): Float32Array {
    return this.#evaluator.outputPlane(root, component);
  }

  picture(width: number, height: number): readonly Float32Array[] {
    return this.#evaluator.picture(width, height);
  }
}

/** What computes so many rows and frames soonest, with making it. */
export function rowsOf(roots: readonly Node[], images: ImageSource, options: GridOptions): Rows {
  const { width, rows = width, frames = 1, reserve = 0 } = options;
  const grid = width * rows * frames < MAKING_PIXELS ? undefined : GridEvaluator.of(roots, images, options);
  return grid ?? new ScatteredRows(roots, images, width, reserve);
}
