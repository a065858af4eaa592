import type { BufferGeometry } from 'three';
import { PlaneGeometry, SphereGeometry } from 'three';

export type MeshName = 'plane' | 'sphere';

export interface GpuMesh {
  readonly array: WebGLVertexArrayObject;
  readonly count: number;
}

export const GEOMETRIES: Record<MeshName, () => BufferGeometry> = {
  plane: () => new PlaneGeometry(1, 1, 1, 1),
  sphere: () => new SphereGeometry(0.6, 96, 48),
};

/** Puts a mesh on the graphics card. UVs are turned so that v runs down. */
export function uploadMesh(gl: WebGL2RenderingContext, name: MeshName): GpuMesh {
  const geometry = GEOMETRIES[name]();
  const array = gl.createVertexArray();
  gl.bindVertexArray(array);
  const attribute = (location: number, data: Float32Array, size: number): void => {
    gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer());
    gl.bufferData(gl.ARRAY_BUFFER, data, gl.STATIC_DRAW);
    gl.enableVertexAttribArray(location);
    gl.vertexAttribPointer(location, size, gl.FLOAT, false, 0, 0);
  };
  const uv = Float32Array.from(geometry.getAttribute('uv').array, (value, i) => (i % 2 === 1 ? 1 - value : value));
  attribute(0, Float32Array.from(geometry.getAttribute('position').array), 3);
  attribute(1, uv, 2);
  attribute(2, Float32Array.from(geometry.getAttribute('normal').array), 3);
  const index = Uint32Array.from(geometry.getIndex()?.array ?? []);
  gl.bindBuffer(gl.ELEMENT_ARRAY_BUFFER, gl.createBuffer());
  gl.bufferData(gl.ELEMENT_ARRAY_BUFFER, index, gl.STATIC_DRAW);
  gl.bindVertexArray(null);
  geometry.dispose();
  return { array, count: index.length };
}
