import { ProgramBuild } from './program-build.ts';
import { setLight } from './lighting.ts';
import type { BackdropName, Scene } from '../material/lighting.ts';
import { UniformLocations } from './uniform-locations.ts';
import type { CameraView } from './renderer.ts';
import { BACKDROP_MESH } from './surface-shader.ts';

/** Height of the room's floor, in metres: a surface of a metre stands in it with its foot. */
export const FLOOR = -0.4;

type Corner = readonly [number, number, number];
/** Quads by three of their corners, from the lower left to the right and up, and where they face. */
const QUADS: Record<BackdropName, readonly (readonly [Corner, Corner, Corner, Corner])[]> = {
  plain: [],
  grid: [
    [
      [-12, -8, -0.75],
      [24, 0, 0],
      [0, 16, 0],
      [0, 0, 1],
    ],
  ],
  room: [
    [
      [-12, FLOOR, 8],
      [24, 0, 0],
      [0, 0, -8.9],
      [0, 1, 0],
    ],
    [
      [-12, FLOOR, -0.9],
      [24, 0, 0],
      [0, 8, 0],
      [0, 0, 1],
    ],
  ],
};

/** Draws what stands behind the surface. */
export class Backdrop {
  #locations: UniformLocations | undefined;
  readonly #arrays = new Map<BackdropName, { readonly array: WebGLVertexArrayObject; readonly count: number }>();

  constructor(readonly gl: WebGL2RenderingContext) {}

  draw({ backdrop, environment }: Scene, view: CameraView): void {
    const { gl } = this;
    if (backdrop === 'plain') return;
    if (!this.#locations) {
      const made = new ProgramBuild(gl, BACKDROP_MESH).finish();
      if ('log' in made) return;
      this.#locations = new UniformLocations(gl, made);
    }
    const locations = this.#locations;
    gl.useProgram(locations.program);
    gl.uniformMatrix4fv(locations.of('stage_view'), false, view.matrix as number[]);
    gl.uniform3fv(locations.of('stage_eye'), view.eye as number[]);
    setLight(gl, (name) => locations.of(name), environment);
    const { array, count } = this.#arrayOf(backdrop);
    gl.bindVertexArray(array);
    gl.drawArrays(gl.TRIANGLES, 0, count);
  }

  #arrayOf(name: BackdropName): { readonly array: WebGLVertexArrayObject; readonly count: number } {
    const known = this.#arrays.get(name);
    if (known) return known;
    const { gl } = this;
    const values: number[] = [];
    for (const [from, right, up, normal] of QUADS[name])
      for (const [s, t] of [
        [0, 0],
        [1, 0],
        [1, 1],
        [0, 0],
        [1, 1],
        [0, 1],
      ] as const)
        values.push(...from.map((v, i) => v + right[i]! * s + up[i]! * t), ...normal);
    const array = gl.createVertexArray();
    gl.bindVertexArray(array);
    gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer());
    gl.bufferData(gl.ARRAY_BUFFER, Float32Array.from(values), gl.STATIC_DRAW);
    for (const [location, offset] of [
      [0, 0],
      [2, 12],
    ] as const) {
      gl.enableVertexAttribArray(location);
      gl.vertexAttribPointer(location, 3, gl.FLOAT, false, 24, offset);
    }
    const made = { array, count: values.length / 6 };
    this.#arrays.set(name, made);
    return made;
  }
}
