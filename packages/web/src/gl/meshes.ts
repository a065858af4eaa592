import type { MeshData } from '@estela/core';
import { ATTRIBUTES } from './attributes.ts';
import { generateTangents } from 'three/addons/libs/mikktspace.module.js';

export interface GpuMesh {
  readonly array: WebGLVertexArrayObject;
  readonly count: number;
  readonly dispose: () => void;
}

/** Every triangle with vertices of its own. */
const spread = (values: Float32Array, width: number, indices: Uint32Array): Float32Array =>
  Float32Array.from({ length: indices.length * width }, (_, i) => values[indices[Math.floor(i / width)]! * width + (i % width)]!);

/**
 * Puts a mesh on the graphics card, with tangents by MikkTSpace (M. Mikkelsen, 2008), the standard that normal maps are baked by.
 * They are taken with v turned up, so that a normal's y is up on the picture.
 */
export function uploadMesh(gl: WebGL2RenderingContext, mesh: MeshData): GpuMesh {
  const { indices } = mesh;
  const positions = spread(mesh.positions, 3, indices);
  const normals = spread(mesh.normals, 3, indices);
  const uvs = spread(mesh.uvs, 2, indices);
  const tangents = generateTangents(
    positions,
    normals,
    uvs.map((value, i) => (i % 2 === 1 ? 1 - value : value)),
  );
  const array = gl.createVertexArray();
  gl.bindVertexArray(array);
  const buffers: WebGLBuffer[] = [];
  const attribute = (location: number, data: Float32Array, size: number): void => {
    const buffer = gl.createBuffer();
    buffers.push(buffer);
    gl.bindBuffer(gl.ARRAY_BUFFER, buffer);
    gl.bufferData(gl.ARRAY_BUFFER, data, gl.STATIC_DRAW);
    gl.enableVertexAttribArray(location);
    gl.vertexAttribPointer(location, size, gl.FLOAT, false, 0, 0);
  };
  attribute(ATTRIBUTES.position, positions, 3);
  attribute(ATTRIBUTES.uv, uvs, 2);
  attribute(ATTRIBUTES.normal, normals, 3);
  attribute(ATTRIBUTES.tangent, tangents, 4);
  if (mesh.colors) attribute(ATTRIBUTES.color, spread(mesh.colors, 4, indices), 4);
  gl.bindVertexArray(null);
  return {
    array,
    count: indices.length,
    dispose() {
      gl.deleteVertexArray(array);
      for (const buffer of buffers) gl.deleteBuffer(buffer);
    },
  };
}
