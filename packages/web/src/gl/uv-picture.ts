import type { MeshData, Part } from '@estela/core';
import { ProgramBuild } from './program-build.ts';
import { UniformLocations } from './uniform-locations.ts';

const SHADERS = {
  vertex: `#version 300 es
precision highp float;
layout(location = 0) in vec2 uv;
uniform vec3 square;
uniform vec2 size;
void main() {
  vec2 point = (square.xy + uv * square.z) / size;
  gl_Position = vec4(point.x * 2.0 - 1.0, 1.0 - point.y * 2.0, 0.0, 1.0);
}
`,
  fragment: `#version 300 es
precision mediump float;
uniform vec4 ink;
out vec4 fragment;
void main() {
  fragment = vec4(ink.rgb * ink.a, ink.a);
}
`,
};

/** Red, green, blue and alpha, 0..1, as they are shown. */
export type Ink = readonly [number, number, number, number];
export interface UvInks {
  readonly fill: Ink;
  /** undefined for none. */
  readonly line: Ink | undefined;
}

interface Buffers {
  readonly uvs: WebGLBuffer;
  readonly corners: WebGLBuffer;
  readonly sides: WebGLBuffer;
}

/** Draws a mesh's UVs into a canvas: triangles and their sides, those of a part apart. */
export class UvPicture {
  readonly #gl: WebGL2RenderingContext | null;
  #locations: UniformLocations | undefined;
  #buffers: Buffers | undefined;
  #uvs: Float32Array | undefined;
  #part: Part | undefined;
  #indices: Uint32Array | undefined;
  /** How many corners come first, those that are not of the part. */
  #others = 0;

  /** `restored` is called when all is to be drawn again after the graphics context was lost. */
  constructor(
    readonly canvas: HTMLCanvasElement,
    readonly restored: () => void,
  ) {
    this.#gl = canvas.getContext('webgl2', { alpha: true, antialias: true, depth: false });
    canvas.addEventListener('webglcontextlost', this.#lost);
    canvas.addEventListener('webglcontextrestored', restored);
  }

  readonly #lost = (event: Event): void => {
    event.preventDefault();
    this.#locations = this.#buffers = this.#uvs = this.#part = this.#indices = undefined;
  };

  /**
   * `square` is the place of the UV square's upper left corner and its side, `size` that of the canvas, both in its own
   * pixels.
   */
  draw(
    mesh: MeshData,
    part: Part,
    square: readonly [number, number, number],
    size: readonly [number, number],
    others: UvInks,
    chosen: UvInks,
  ): void {
    const gl = this.#gl;
    if (!gl || gl.isContextLost()) return;
    if (!this.#locations) {
      const made = new ProgramBuild(gl, SHADERS).finish();
      if ('log' in made) return;
      this.#locations = new UniformLocations(gl, made);
    }
    this.#buffers ??= { uvs: gl.createBuffer(), corners: gl.createBuffer(), sides: gl.createBuffer() };
    this.#send(gl, this.#buffers, mesh, part);
    gl.viewport(0, 0, ...size);
    gl.clearColor(0, 0, 0, 0);
    gl.clear(gl.COLOR_BUFFER_BIT);
    gl.enable(gl.BLEND);
    gl.blendFunc(gl.ONE, gl.ONE_MINUS_SRC_ALPHA);
    gl.useProgram(this.#locations.program);
    gl.uniform3f(this.#locations.of('square'), ...square);
    gl.uniform2f(this.#locations.of('size'), ...size);
    const all = mesh.indices.length;
    for (const [{ fill, line }, from, to] of [
      [others, 0, this.#others],
      [chosen, this.#others, all],
    ] as const) {
      if (to === from) continue;
      gl.uniform4f(this.#locations.of('ink'), ...fill);
      gl.bindBuffer(gl.ELEMENT_ARRAY_BUFFER, this.#buffers.corners);
      gl.drawElements(gl.TRIANGLES, to - from, gl.UNSIGNED_INT, from * 4);
      if (!line) continue;
      gl.uniform4f(this.#locations.of('ink'), ...line);
      gl.bindBuffer(gl.ELEMENT_ARRAY_BUFFER, this.#buffers.sides);
      gl.drawElements(gl.LINES, (to - from) * 2, gl.UNSIGNED_INT, from * 8);
    }
  }

  #send(gl: WebGL2RenderingContext, buffers: Buffers, { uvs, indices }: MeshData, part: Part): void {
    gl.bindBuffer(gl.ARRAY_BUFFER, buffers.uvs);
    if (uvs !== this.#uvs) gl.bufferData(gl.ARRAY_BUFFER, uvs, gl.DYNAMIC_DRAW);
    gl.enableVertexAttribArray(0);
    gl.vertexAttribPointer(0, 2, gl.FLOAT, false, 0, 0);
    if (indices !== this.#indices || part !== this.#part) {
      const corners = new Uint32Array(indices.length);
      let at = 0;
      for (const wanted of [0, 1]) {
        for (let t = 0; t < indices.length; t += 3) {
          if (part[indices[t]!] !== wanted) continue;
          for (let k = 0; k < 3; k++) corners[at++] = indices[t + k]!;
        }
        if (wanted === 0) this.#others = at;
      }
      const sides = new Uint32Array(corners.length * 2);
      for (let t = 0; t < corners.length; t += 3)
        for (let k = 0; k < 3; k++) {
          sides[(t + k) * 2] = corners[t + k]!;
          sides[(t + k) * 2 + 1] = corners[t + ((k + 1) % 3)]!;
        }
      gl.bindBuffer(gl.ELEMENT_ARRAY_BUFFER, buffers.corners);
      gl.bufferData(gl.ELEMENT_ARRAY_BUFFER, corners, gl.STATIC_DRAW);
      gl.bindBuffer(gl.ELEMENT_ARRAY_BUFFER, buffers.sides);
      gl.bufferData(gl.ELEMENT_ARRAY_BUFFER, sides, gl.STATIC_DRAW);
    }
    [this.#uvs, this.#indices, this.#part] = [uvs, indices, part];
  }

  dispose(): void {
    this.canvas.removeEventListener('webglcontextlost', this.#lost);
    this.canvas.removeEventListener('webglcontextrestored', this.restored);
    const gl = this.#gl;
    if (!gl || !this.#buffers) return;
    for (const buffer of Object.values<WebGLBuffer>({ ...this.#buffers })) gl.deleteBuffer(buffer);
    if (this.#locations) gl.deleteProgram(this.#locations.program);
    this.#lost(new Event('gone'));
  }
}
