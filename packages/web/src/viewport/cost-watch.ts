import type { CardTimer } from '../gl/card-timer.ts';
import type { Programs } from '../gl/programs.ts';
import type { Renderer } from '../gl/renderer.ts';
import type { Textures } from '../gl/textures.ts';
import type { Drawable } from '../material/look.ts';
import { MaterialProgram } from '../gl/material-program.ts';

/** Pixels that are timed. */
export const [TIMED_WIDTH, TIMED_HEIGHT] = [1920, 1080];
/** Milliseconds that a shader must stay the same before it is timed, and between two looks at what it took. */
const [REST, LOOK] = [600, 50];
/** Times that it is drawn: the one in the middle counts. */
const TURNS = 5;
/** Looks after which a card that tells nothing is left alone. */
const PATIENCE = 200;

/** Times a material on the graphics card over 1920 x 1080 pixels, once its shader stays the same for a while. */
export class CostWatch {
  #timer: ReturnType<typeof setTimeout> | undefined;
  #key: string | undefined;
  /** Gives back what a timing holds. */
  #end: (() => void) | undefined;
  /** Milliseconds; undefined while they are not known. */
  milliseconds: number | undefined;

  constructor(
    readonly card: CardTimer,
    readonly programs: Programs,
    readonly renderer: Renderer,
    readonly textures: Textures,
    readonly tell: (milliseconds: number | undefined) => void,
  ) {}

  watch(look: Drawable | undefined): void {
    const key = look && MaterialProgram.keyOf(look, 'flat');
    if (key === this.#key) return;
    this.#key = key;
    clearTimeout(this.#timer);
    this.#end?.();
    this.#told(undefined);
    if (!look) return;
    this.#timer = setTimeout(() => {
      this.#time(look);
    }, REST);
  }

  #told(milliseconds: number | undefined): void {
    if (milliseconds === this.milliseconds) return;
    this.milliseconds = milliseconds;
    this.tell(milliseconds);
  }

  #time(look: Drawable): void {
    const { gl } = this.card;
    const program = this.programs.acquire(look, 'flat');
    const target = gl.createFramebuffer();
    const color = gl.createRenderbuffer();
    gl.bindRenderbuffer(gl.RENDERBUFFER, color);
    gl.renderbufferStorage(gl.RENDERBUFFER, gl.RGBA8, TIMED_WIDTH, TIMED_HEIGHT);
    gl.bindFramebuffer(gl.FRAMEBUFFER, target);
    gl.framebufferRenderbuffer(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.RENDERBUFFER, color);
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
    const times: number[] = [];
    let looks = 0;
    const end = (): void => {
      this.#end = undefined;
      gl.deleteFramebuffer(target);
      gl.deleteRenderbuffer(color);
      this.programs.release(program);
    };
    this.#end = end;
    // The square covers the whole picture, so that each of its pixels is the material's.
    const square = { x: 0, y: 0, size: TIMED_WIDTH, repeat: 1 };
    const step = (): void => {
      if (gl.isContextLost() || program.failure !== undefined || ++looks > PATIENCE) {
        end();
        return;
      }
      const took = this.card.took;
      if (took !== undefined && !Number.isNaN(took)) times.push(took);
      if (times.length === TURNS) {
        end();
        this.#told(times.sort((a, b) => a - b)[TURNS >> 1]);
        return;
      }
      if (program.ready && !this.card.isRunning)
        this.card.begin(() => {
          const moment = { time: look.program.loop.seconds / 3, dials: look.values.dials };
          this.renderer.drawFlat(program, look.glsl, moment, this.textures, square, TIMED_WIDTH, TIMED_HEIGHT, target);
        });
      this.#timer = setTimeout(step, LOOK);
    };
    step();
  }

  dispose(): void {
    this.watch(undefined);
  }
}
