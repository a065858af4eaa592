/** Where a program's uniforms are; each is asked of the driver once. */
export class UniformLocations {
  readonly #known = new Map<string, WebGLUniformLocation | null>();

  constructor(
    readonly gl: WebGL2RenderingContext,
    readonly program: WebGLProgram,
  ) {}

  /** Null, which sets nothing, for one that the program does not use. */
  of(name: string): WebGLUniformLocation | null {
    let location = this.#known.get(name);
    if (location === undefined) this.#known.set(name, (location = this.gl.getUniformLocation(this.program, name)));
    return location;
  }
}
