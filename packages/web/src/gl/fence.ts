/**
 * Tells when all that was asked of the graphics card so far is done. It is known from one task of the page to the next,
 * no sooner.
 */
export class Fence {
  readonly #sync: WebGLSync | null;
  readonly #start = performance.now();

  constructor(readonly gl: WebGL2RenderingContext) {
    this.#sync = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0);
    gl.flush();
  }

  /** The milliseconds that it took; undefined while it is not done. */
  get took(): number | undefined {
    const { gl } = this;
    if (this.#sync && gl.clientWaitSync(this.#sync, 0, 0) === gl.TIMEOUT_EXPIRED) return undefined;
    gl.deleteSync(this.#sync);
    return performance.now() - this.#start;
  }
}
