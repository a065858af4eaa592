import type { MeshData } from '@estela/core';
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

/** Draws a mesh's UVs into a canvas: triangles and their sides, by group. */
export class UvPicture {
  readonly #gl: WebGL2RenderingContext | null;
  #locations: UniformLocations | undefined;
  #buffers: Buffers | undefined;
  #uvs: Float32Array | undefined;
  #groups: Uint8Array | undefined;
  #indices: Uint32Array | undefined;
  /** Where the corners of each group begin, and where the last ends. */
  #starts: readonly number[] = [];

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
    this.#locations = this.#buffers = this.#uvs = this.#groups = this.#indices = undefined;
  };

  /**
   * `groups` tells which of the inks each triangle has; later ones lie over earlier ones. `square` is the place of the UV
   * square's upper left corner and its side, `size` that of the canvas, both in its own pixels.
   */
  draw(
    mesh: MeshData,
    groups: Uint8Array,
    square: readonly [number, number, number],
    size: readonly [number, number],
    inks: readonly UvInks[],
  ): void {
    const gl = this.#gl;
    if (!gl || gl.isContextLost()) return;
    if (!this.#locations) {
      const made = new ProgramBuild(gl, SHADERS).finish();
      if ('log' in made) return;
      this.#locations = new UniformLocations(gl, made);
    }
    this.#buffers ??= { uvs: gl.createBuffer(), corners: gl.createBuffer(), sides: gl.createBuffer() };
    this.#send(gl, this.#buffers, mesh, groups, inks.length);
    gl.viewport(0, 0, ...size);
    gl.clearColor(0, 0, 0, 0);
    gl.clear(gl.COLOR_BUFFER_BIT);
    gl.enable(gl.BLEND);
    gl.blendFunc(gl.ONE, gl.ONE_MINUS_SRC_ALPHA);
    gl.useProgram(this.#locations.program);
    gl.uniform3f(this.#locations.of('square'), ...square);
    gl.uniform2f(this.#locations.of('size'), ...size);
    for (const [group, { fill, line }] of inks.entries()) {
      const [from, to] = [this.#starts[group]!, this.#starts[group + 1]!];
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

  #send(
    gl: WebGL2RenderingContext,
    buffers: Buffers,
    { uvs, indices }: MeshData,
    groups: Uint8Array,
    count: number,
  ): void {
    gl.bindBuffer(gl.ARRAY_BUFFER, buffers.uvs);
    if (uvs !== this.#uvs) gl.bufferData(gl.ARRAY_BUFFER, uvs, gl.DYNAMIC_DRAW);
    gl.enableVertexAttribArray(0);
    gl.vertexAttribPointer(0, 2, gl.FLOAT, false, 0, 0);
    if (indices !== this.#indices || groups !== this.#groups) {
      const corners = new Uint32Array(indices.length);
      const starts = [0];
      let at = 0;
      for (let group = 0; group < count; group++) {
        for (let t = 0; t < groups.length; t++) {
          if (groups[t] !== group) continue;
          for (let k = 0; k < 3; k++) corners[at++] = indices[t * 3 + k]!;
        }
        starts.push(at);
      }
      this.#starts = starts;
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
    [this.#uvs, this.#indices, this.#groups] = [uvs, indices, groups];
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
