import { cross, type MeshData, type Vector } from '@estela/core';
import { ProgramBuild } from './program-build.ts';
import { GpuMesh } from './meshes.ts';
import { UniformLocations } from './uniform-locations.ts';

/** From the right, above and before. */
const RIGHT: Vector = [0.83, 0, -0.56];
const BACK: Vector = [0.5, 0.45, 0.74];
const UP = cross(BACK, RIGHT);

/** Faces in grey, lighter the more they look at the viewer, the same from both sides. */
const SHADERS = {
  vertex: `#version 300 es
precision highp float;
layout(location = 0) in vec3 position;
uniform mat3 view;
uniform vec4 ball;
out vec3 point;
void main() {
  point = view * (position - ball.xyz) / ball.w;
  gl_Position = vec4(point.xy, -point.z * 0.5, 1.08);
}
`,
  fragment: `#version 300 es
precision highp float;
in vec3 point;
out vec4 fragment;
void main() {
  float facing = abs(normalize(cross(dFdx(point), dFdy(point))).z);
  fragment = vec4(vec3(0.21, 0.21, 0.195) + facing * 0.51, 1.0);
}
`,
};

let shared:
  | { readonly canvas: OffscreenCanvas; readonly gl: WebGL2RenderingContext; readonly locations: UniformLocations }
  | undefined;

/** One context for all of them; made anew where it was lost. */
function studio(): typeof shared {
  if (shared && !shared.gl.isContextLost()) return shared;
  const canvas = new OffscreenCanvas(1, 1);
  const gl = canvas.getContext('webgl2', { alpha: true, antialias: true });
  const program = gl && new ProgramBuild(gl, SHADERS).finish();
  return (shared =
    gl && program && !('log' in program) ? { canvas, gl, locations: new UniformLocations(gl, program) } : undefined);
}

/**
 * A mesh in greys, `size` pixels to a side; undefined where the browser draws none. The middle and radius are those of
 * a ball about it.
 */
export function meshPicture(mesh: MeshData, middle: Vector, radius: number, size: number): ImageBitmap | undefined {
  const at = studio();
  if (!at) return undefined;
  const { canvas, gl, locations } = at;
  [canvas.width, canvas.height] = [size, size];
  gl.viewport(0, 0, size, size);
  gl.enable(gl.DEPTH_TEST);
  gl.clear(gl.COLOR_BUFFER_BIT | gl.DEPTH_BUFFER_BIT);
  gl.useProgram(locations.program);
  gl.uniformMatrix3fv(locations.of('view'), true, [...RIGHT, ...UP, ...BACK]);
  gl.uniform4f(locations.of('ball'), ...middle, Math.max(radius, 1e-9));
  const buffers = new GpuMesh(gl, mesh);
  gl.bindVertexArray(buffers.array);
  gl.drawArrays(gl.TRIANGLES, 0, buffers.count);
  buffers.dispose();
  return canvas.transferToImageBitmap();
}
