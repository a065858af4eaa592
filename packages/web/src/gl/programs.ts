import type { Drawable } from '../material/look.ts';
import { MaterialProgram } from './material-program.ts';
import type { ViewKind } from './surface-shader.ts';

/**
 * The shader programs of one context: materials whose shaders are equal share one, for as long as any of them is shown.
 */
export class Programs {
  readonly #held = new Map<string, { readonly program: MaterialProgram; holders: number }>();

  constructor(readonly gl: WebGL2RenderingContext) {}

  /** How many there are. */
  get size(): number {
    return this.#held.size;
  }

  /** A program for a look, made if none is like it; to be given back once it is no longer used. */
  acquire(look: Drawable, kind: ViewKind): MaterialProgram {
    const key = MaterialProgram.keyOf(look, kind);
    let held = this.#held.get(key);
    if (!held) this.#held.set(key, (held = { program: new MaterialProgram(this.gl, look, kind), holders: 0 }));
    held.holders++;
    return held.program;
  }

  release(program: MaterialProgram): void {
    const held = this.#held.get(program.key);
    if (held?.program !== program || --held.holders > 0) return;
    this.#held.delete(program.key);
    program.dispose();
  }
}
