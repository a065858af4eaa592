import { WasmEvaluator, type PixelInput } from '@estela/core';
import { derive, type Derived } from '../material/look.ts';
import { decoded, imagesOf, type PictureRef } from './decoded.ts';

/** A place of the surface: its coordinate, and what else is known of it there. */
export interface ProbePixel {
  readonly uv: readonly [number, number];
  readonly others?: Partial<Record<PixelInput, readonly number[]>>;
}

/** Most moments of a history. */
const MOMENTS = 240;

/**
 * Evaluates every step of a text at one pixel. The module is made anew only when the text's graph or its images change.
 */
export class Prober {
  #derived: Derived | undefined;
  #evaluator: WasmEvaluator | undefined;
  #key = '';

  async #ready(text: string, pictures: ReadonlyMap<string, PictureRef>): Promise<WasmEvaluator> {
    const derived = this.#derived?.text === text ? this.#derived : derive(text, this.#derived);
    const { graph, program } = derived.look;
    const key = [...pictures].map(([name, p]) => `${name}=${p.hash}`).join();
    if (!this.#evaluator || graph !== this.#derived?.look.graph || key !== this.#key) {
      const images = await imagesOf(program, pictures, (picture) => decoded(picture).catch(() => undefined));
      this.#evaluator = new WasmEvaluator(graph.steps, (slot) => images.get(slot.source));
      this.#key = key;
    }
    this.#derived = derived;
    return this.#evaluator;
  }

  #at(evaluator: WasmEvaluator, { uv, others = {} }: ProbePixel, time: number): void {
    evaluator.setFrame({ time, dials: this.#derived!.look.values.dials });
    const [u, v] = evaluator.uvPlanes();
    [u[0], v[0]] = uv;
    for (const [name, values] of Object.entries(others) as [PixelInput, readonly number[]][])
      values.forEach((value, c) => evaluator.inputPlane(name, c)?.fill(value, 0, 1));
    evaluator.run(1, new Set(['uv', ...(Object.keys(others) as PixelInput[])]));
  }

  #value(evaluator: WasmEvaluator, step: number): number[] {
    const node = this.#derived!.look.graph.steps[step];
    const width = node ? Number(/\d/.exec(node.type)?.[0] ?? 1) : 0;
    return Array.from({ length: width }, (_, c) => evaluator.outputPlane(step, c)[0] ?? 0);
  }

  /** Components of every step, at a pixel and moment. */
  async values(
    text: string,
    pixel: ProbePixel,
    time: number,
    pictures: ReadonlyMap<string, PictureRef>,
  ): Promise<number[][]> {
    const evaluator = await this.#ready(text, pictures);
    this.#at(evaluator, pixel, time);
    return this.#derived!.look.graph.steps.map((_, step) => this.#value(evaluator, step));
  }

  /** Components of one step at evenly spread moments of the loop, its frames where they are few. */
  async history(
    text: string,
    step: number,
    pixel: ProbePixel,
    pictures: ReadonlyMap<string, PictureRef>,
  ): Promise<{ time: number; value: number[] }[]> {
    const evaluator = await this.#ready(text, pictures);
    const { seconds, frames } = this.#derived!.program.loop;
    const count = Math.min(frames, MOMENTS);
    return Array.from({ length: count }, (_, i) => {
      const time = (i / count) * seconds;
      this.#at(evaluator, pixel, time);
      return { time, value: this.#value(evaluator, step) };
    });
  }
}
