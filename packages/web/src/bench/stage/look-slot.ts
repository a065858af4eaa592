import { MaterialProgram } from '../../gl/material-program.ts';
import type { Look } from '../look.ts';

/** One material on the Stage: the shader that is drawn, and the one that is being made beside it. */
export class LookSlot {
  #live: MaterialProgram | undefined;
  #liveLook: Look | undefined;
  #next: { program: MaterialProgram; look: Look } | undefined;
  look: Look | undefined;

  /** Shows another look: with the running shader where it is the same, else once a new one is made. */
  set(gl: WebGL2RenderingContext, look: Look | undefined, kind: 'flat' | 'mesh'): void {
    this.look = look;
    if (!look) {
      this.dispose();
      return;
    }
    const key = MaterialProgram.keyOf(look, kind);
    if (this.#live?.key === key) {
      this.#live.adopt(look);
      this.#liveLook = look;
      this.#next?.program.dispose();
      this.#next = undefined;
    } else if (this.#next?.program.key === key) {
      this.#next.program.adopt(look);
      this.#next.look = look;
    } else {
      this.#next?.program.dispose();
      this.#next = { program: new MaterialProgram(gl, look, kind), look };
    }
  }

  get waiting(): boolean {
    return this.#next !== undefined;
  }

  get shown(): { readonly program: MaterialProgram; readonly look: Look } | undefined {
    return this.#live?.ready && this.#liveLook ? { program: this.#live, look: this.#liveLook } : undefined;
  }

  /** Takes the new shader over once it is ready; gives what happened, if anything did. */
  swap(): { readonly failure: string | undefined } | undefined {
    if (!this.#next) return undefined;
    const { program, look } = this.#next;
    if (program.ready) {
      this.#live?.dispose();
      this.#live = program;
      this.#liveLook = look;
      this.#next = undefined;
      return { failure: undefined };
    }
    if (program.failure === undefined) return undefined;
    program.dispose();
    this.#next = undefined;
    return { failure: program.failure };
  }

  /** Forgets what lived in a lost context; the look stays. */
  forget(): void {
    this.#live = this.#liveLook = this.#next = undefined;
  }

  dispose(): void {
    this.#next?.program.dispose();
    this.#live?.dispose();
    this.forget();
  }
}
