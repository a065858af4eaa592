import { refsOf } from '../../project/supply.ts';
import type { SourcesStore } from '../../project/sources-store.ts';
import { oneAtATime } from '../../workers/one-at-a-time.ts';
import { material } from '../../workers/material.ts';
import { PICTURE_HEIGHT, PICTURE_WIDTH } from '../../workers/step-pictures.ts';
import type { Clock } from '../../material/clock-store.ts';
import { isTyping, type DocumentStore } from '../document-store.ts';

/** Milliseconds between two rounds of pictures while the loop plays, and after typing. */
const PAUSE = 66;
/** The same while keys come in: one a while, so that they are not held up. */
const TYPING_PAUSE = 280;

/**
 * Plays the pictures of the steps that are in sight: one question to the worker at a time, none while nothing changes.
 */
export class StepPlayer {
  readonly #shown = new Map<HTMLCanvasElement, number>();
  readonly #ends: (() => void)[];
  readonly #asker = oneAtATime(
    () => this.#draw(),
    () => (isTyping(this.document) ? TYPING_PAUSE : PAUSE),
  );

  constructor(
    readonly document: DocumentStore,
    readonly clock: Clock,
    readonly sources: SourcesStore,
  ) {
    const { ask } = this.#asker;
    this.#ends = [document.subscribe(ask), clock.subscribe(ask), sources.subscribe(ask)];
    globalThis.document.addEventListener('visibilitychange', ask);
    this.#ends.push(() => {
      globalThis.document.removeEventListener('visibilitychange', ask);
    });
  }

  /** Shows a step on a canvas until `hide`. */
  show(canvas: HTMLCanvasElement, step: number): void {
    this.#shown.set(canvas, step);
    this.#asker.ask();
  }

  hide(canvas: HTMLCanvasElement): void {
    this.#shown.delete(canvas);
  }

  #draw(): Promise<void> | undefined {
    if (this.#shown.size === 0 || globalThis.document.hidden) return undefined;
    const { text } = this.document.getState();
    const shown = [...this.#shown];
    const steps = [...new Set(shown.map(([, step]) => step))].sort((a, b) => a - b);
    return material('draw')
      .steps(text, steps, this.clock.getState().time, refsOf(this.sources.getState().sources))
      .then((frame) => {
        // Pictures of a text that is no longer there would stand beside the wrong lines.
        if (!frame || this.document.getState().text !== text) return;
        const bytes = PICTURE_WIDTH * PICTURE_HEIGHT * 4;
        for (const [canvas, step] of shown) {
          const at = steps.indexOf(step);
          const pixels = new ImageData(
            frame.data.subarray(at * bytes, (at + 1) * bytes),
            PICTURE_WIDTH,
            PICTURE_HEIGHT,
          );
          canvas.getContext('2d')?.putImageData(pixels, 0, 0);
          canvas.classList.toggle('cm-outside', frame.outside[at]);
        }
      });
  }

  dispose(): void {
    this.#asker.stop();
    for (const end of this.#ends) end();
  }
}
