import { soonest } from './software.ts';
import type { ShaderSources } from './surface-shader.ts';

/**
 * A shader program being made. Drivers compile beside the page; `settled` looks without waiting
 * where they can tell (KHR_parallel_shader_compile), and `program` is only asked for then.
 */
export class ProgramBuild {
  readonly #program: WebGLProgram;
  readonly #shaders: WebGLShader[];
  readonly #parallel: { COMPLETION_STATUS_KHR: number } | null;

  constructor(
    readonly gl: WebGL2RenderingContext,
    { vertex, fragment }: ShaderSources,
  ) {
    this.#parallel = gl.getExtension('KHR_parallel_shader_compile');
    this.#program = gl.createProgram();
    this.#shaders = [
      [gl.VERTEX_SHADER, vertex],
      [gl.FRAGMENT_SHADER, fragment],
    ].map(([type, source]) => {
      const shader = gl.createShader(type as number);
      if (!shader) throw new Error('The graphics context is lost.');
      gl.shaderSource(shader, soonest(gl, source as string));
      gl.compileShader(shader);
      gl.attachShader(this.#program, shader);
      return shader;
    });
    gl.linkProgram(this.#program);
  }

  get settled(): boolean {
    return (
      !this.#parallel ||
      this.gl.isContextLost() ||
      Boolean(this.gl.getProgramParameter(this.#program, this.#parallel.COMPLETION_STATUS_KHR))
    );
  }

  /** The linked program, or what the driver says is wrong with it. */
  finish(): WebGLProgram | { readonly log: string } {
    const { gl } = this;
    const linked = Boolean(gl.getProgramParameter(this.#program, gl.LINK_STATUS));
    const log = linked
      ? ''
      : [...this.#shaders.map((s) => gl.getShaderInfoLog(s) ?? ''), gl.getProgramInfoLog(this.#program) ?? '']
          .join('\n')
          .trim();
    for (const shader of this.#shaders) gl.deleteShader(shader);
    if (linked) return this.#program;
    gl.deleteProgram(this.#program);
    return { log: log || 'The driver gives no reason.' };
  }
}
