import { frameEvaluator, scalarOf, widthOf, type ShaderMaterial } from '@estela/core';
import type { Drawable } from '../material/look.ts';
import { ProgramBuild } from './program-build.ts';
import { UniformLocations } from './uniform-locations.ts';
import { looksBehind, surfaceShader, type ViewKind } from './surface-shader.ts';
import type { Textures } from './textures.ts';

export interface Moment {
  /** Seconds. */
  readonly time: number;
  readonly dials: ReadonlyMap<string, readonly number[]>;
}

const evaluators = new WeakMap<ShaderMaterial['uniforms'], ReturnType<typeof frameEvaluator>>();

/** What gives the values of uniforms: what no moment changes is computed once. */
function valuesOf(uniforms: ShaderMaterial['uniforms']): ReturnType<typeof frameEvaluator> {
  let known = evaluators.get(uniforms);
  if (!known) evaluators.set(uniforms, (known = frameEvaluator(uniforms.map((u) => u.node))));
  return known;
}

/** A material as a shader program: made beside what is running, then used with uniforms alone. */
export class MaterialProgram {
  #build: ProgramBuild | undefined;
  #locations: UniformLocations | undefined;
  /** What the driver says where it refuses the shader. */
  failure: string | undefined;

  constructor(
    readonly gl: WebGL2RenderingContext,
    look: Drawable,
    readonly kind: ViewKind,
  ) {
    this.key = MaterialProgram.keyOf(look, kind);
    this.looksBehind = kind === 'mesh' && looksBehind(look.glsl);
    this.readsNormals =
      kind === 'mesh' && look.program.surface.lit && look.glsl.outputs.some((o) => o.name === 'normal');
    this.refracts =
      kind === 'mesh' &&
      look.program.surface.mode === 'blend' &&
      look.glsl.outputs.some((o) => o.name === 'refraction');
    this.#build = new ProgramBuild(gl, surfaceShader(look.glsl, look.program.surface, kind));
  }

  readonly key: string;
  /** It shows or measures what stands behind it. */
  readonly looksBehind: boolean;
  /** It has normals in a mesh's tangents. */
  readonly readsNormals: boolean;
  /** It paints what stands behind it, bent. */
  readonly refracts: boolean;

  /** Equal keys mean equal shaders. */
  static keyOf(look: Drawable, kind: ViewKind): string {
    const { mode, lit } = look.program.surface;
    return `${kind}|${mode}|${kind === 'mesh' && lit ? 'lit' : ''}|${look.glsl.code}`;
  }

  /** True once it can be drawn with. */
  get ready(): boolean {
    if (this.#build?.settled) {
      const result = this.#build.finish();
      this.#build = undefined;
      if ('log' in result) this.failure = result.log;
      else this.#locations = new UniformLocations(this.gl, result);
    }
    return this.#locations !== undefined;
  }

  location(name: string): WebGLUniformLocation | null {
    return this.#locations?.of(name) ?? null;
  }

  /**
   * Makes it the current program and hands over the values of this moment and the images, of a material whose shader it
   * is.
   */
  use({ uniforms, samplers }: ShaderMaterial, moment: Moment, textures: Textures): void {
    if (!this.#locations) return;
    const { gl } = this;
    gl.useProgram(this.#locations.program);
    const values = valuesOf(uniforms)(moment);
    for (const { name, type, node } of uniforms) {
      const value = values.get(node) ?? [0];
      const location = this.location(`stage_frame.${name}`);
      const [scalar, width] = [scalarOf(type), widthOf(type)];
      if (scalar === 'f') gl[`uniform${String(width) as '1' | '2' | '3' | '4'}fv`](location, value as number[]);
      else if (scalar === 'u') gl[`uniform${String(width) as '1' | '2' | '3' | '4'}uiv`](location, value as number[]);
      else gl[`uniform${String(width) as '1' | '2' | '3' | '4'}iv`](location, value as number[]);
    }
    samplers.forEach(({ name, slot }, unit) => {
      textures.bind(slot, unit);
      gl.uniform1i(this.location(name), unit);
    });
  }

  dispose(): void {
    if (this.#locations) this.gl.deleteProgram(this.#locations.program);
    this.#locations = undefined;
    this.#build = undefined;
  }
}
