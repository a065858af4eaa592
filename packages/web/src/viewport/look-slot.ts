import { dependsOnTime, type ShaderMaterial } from '@estela/core';
import { MaterialProgram } from '../gl/material-program.ts';
import type { Programs } from '../gl/programs.ts';
import type { Drawable } from '../material/look.ts';

const moving = new WeakMap<ShaderMaterial, boolean>();
/** Whether a picture of a material changes as time goes on: time reaches a shader by its uniforms alone. */
export function moves({ glsl }: Drawable): boolean {
  let known = moving.get(glsl);
  if (known === undefined) moving.set(glsl, (known = dependsOnTime(glsl.uniforms.map((u) => u.node))));
  return known;
}

/** A look with the program that draws it. */
interface Ready {
  readonly program: MaterialProgram;
  readonly look: Drawable;
}

/** One material on the Stage: the shader that is drawn, and the one that is being made beside it. */
export class LookSlot {
  #programs: Programs | undefined;
  #live: Ready | undefined;
  #next: Ready | undefined;
  look: Drawable | undefined;

  /** Shows another look: with the running shader where it is the same, else once a new one is made. */
  set(programs: Programs, look: Drawable | undefined, kind: 'flat' | 'mesh'): void {
    this.look = look;
    this.#programs = programs;
    if (!look) {
      this.dispose();
      return;
    }
    const key = MaterialProgram.keyOf(look, kind);
    if (this.#live?.program.key === key) {
      this.#live = { ...this.#live, look };
      this.#drop(this.#next);
      this.#next = undefined;
    } else if (this.#next?.program.key === key) {
      this.#next = { ...this.#next, look };
    } else {
      const before = this.#next;
      this.#next = { program: programs.acquire(look, kind), look };
      this.#drop(before);
    }
  }

  #drop(ready: Ready | undefined): void {
    if (ready) this.#programs?.release(ready.program);
  }

  get waiting(): boolean {
    return this.#next !== undefined;
  }

  get shown(): Ready | undefined {
    return this.#live?.program.ready ? this.#live : undefined;
  }

  /** Takes the new shader over once it is ready; gives what happened, if anything did. */
  swap(): { readonly failure: string | undefined } | undefined {
    if (!this.#next) return undefined;
    const { program } = this.#next;
    if (program.ready) {
      this.#drop(this.#live);
      this.#live = this.#next;
      this.#next = undefined;
      return { failure: undefined };
    }
    if (program.failure === undefined) return undefined;
    const { failure } = program;
    this.#drop(this.#next);
    this.#next = undefined;
    return { failure };
  }

  /** Forgets what lived in a lost context; the look stays. */
  forget(): void {
    this.#live = this.#next = this.#programs = undefined;
  }

  dispose(): void {
    this.#drop(this.#next);
    this.#drop(this.#live);
    this.#live = this.#next = undefined;
  }
}
