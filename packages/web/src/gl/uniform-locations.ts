/** Where a program's uniforms are; each is asked of the driver once. */
export class UniformLocations {
  readonly #known = new Map<string, WebGLUniformLocation | null>();

  constructor(
    readonly gl: WebGL2RenderingContext,
    readonly program: WebGLProgram,
  ) {}

  /** Null, which sets nothing, for one that the program does not use. */
  of(name: string): WebGLUniformLocation | null {
    let place = this.#known.get(name);
    if (place === undefined) this.#known.set(name, (place = this.gl.getUniformLocation(this.program, name)));
    return place;
  }
}
