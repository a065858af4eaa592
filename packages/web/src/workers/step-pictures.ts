import { rowsOf, shownColor, srgbByte, type ImageSource, type Node, type Rows } from '@estela/core';
import { derive, type Derived } from '../material/look.ts';
import { decoded, imagesOf, type PictureRef } from './decoded.ts';

/** Pixels of a step's picture; it shows the UV square's whole width and the middle of its height. */
export const PICTURE_WIDTH = 64;
export const PICTURE_HEIGHT = 40;
const COUNT = PICTURE_WIDTH * PICTURE_HEIGHT;
/** Moments after which it is known that it plays. */
const MANY = 96;

/** Pictures of steps at one moment, one after the other in `data`, 4 bytes a pixel. */
export interface StepFrame {
  readonly data: Uint8ClampedArray<ArrayBuffer>;
  /** Which of them hold values outside 0..1. */
  readonly outside: readonly boolean[];
}

/**
 * Computes the pictures of some steps of a text, all in one pass of one module, which is made anew only when text or
 * steps change.
 */
export class StepPictures {
  #derived: Derived | undefined;
  #key = '';
  #rows: Rows | undefined;
  #roots: readonly Node[] = [];
  #images: ImageSource = () => undefined;
  /** Moments that were drawn since text or steps last changed. */
  #drawn = 0;

  async draw(
    text: string,
    steps: readonly number[],
    time: number,
    pictures: ReadonlyMap<string, PictureRef>,
  ): Promise<StepFrame | undefined> {
    const derived = this.#derived?.text === text ? this.#derived : derive(text, this.#derived);
    const { graph, program, values } = derived.look;
    if (steps.some((i) => i >= graph.steps.length) || steps.length === 0) return undefined;
    const used = new Set(graph.images.map((i) => i.source));
    const contents = [...pictures].filter(([name]) => used.has(name)).map(([name, p]) => `${name}=${p.hash}`);
    const key = `${steps.join()} ${contents.join()}`;
    if (graph !== this.#derived?.look.graph || key !== this.#key || !this.#rows) {
      // One that cannot be decoded is the test grid here, as it is on the Stage.
      const images = await imagesOf(program, pictures, (picture) => decoded(picture).catch(() => undefined));
      this.#roots = steps.map((i) => shownColor(graph, i));
      this.#images = (slot) => images.get(slot.source);
      this.#key = key;
      this.#drawn = 0;
    }
    // What is there at once serves until so much was drawn that code which takes longer to make would have paid.
    if (!this.#rows || this.#drawn === 0 || this.#drawn === MANY)
      this.#rows = rowsOf(this.#roots, this.#images, {
        width: PICTURE_WIDTH,
        rows: PICTURE_HEIGHT,
        frames: Math.max(1, this.#drawn),
      });
    this.#drawn++;
    this.#derived = derived;
    const rows = this.#rows;
    rows.setFrame({ time, dials: values.dials });
    const data = new Uint8ClampedArray(steps.length * COUNT * 4);
    const outside = steps.map(() => false);
    for (let y = 0; y < PICTURE_HEIGHT; y++) {
      rows.row(0.5 + (y + 0.5 - PICTURE_HEIGHT / 2) / PICTURE_WIDTH, y);
      for (let s = 0; s < steps.length; s++) {
        for (let c = 0; c < 4; c++) {
          const plane = rows.outputPlane(s, c);
          for (let x = 0, to = (s * COUNT + y * PICTURE_WIDTH) * 4 + c; x < PICTURE_WIDTH; x++, to += 4) {
            const value = plane[x]!;
            if (value < -1e-4 || value > 1.0001) outside[s] = true;
            data[to] = c === 3 ? value * 255 : srgbByte(value);
          }
        }
      }
    }
    return { data, outside };
  }
}
