import type { MeshData } from '@estela/core';
import { generateTangents } from 'three/addons/libs/mikktspace.module.js';
import { ATTRIBUTES } from './attributes.ts';

/** Every triangle with vertices of its own. */
function spread(values: Float32Array, width: number, indices: Uint32Array): Float32Array {
  const result = new Float32Array(indices.length * width);
  for (let i = 0; i < indices.length; i++)
    for (let k = 0; k < width; k++) result[i * width + k] = values[indices[i]! * width + k]!;
  return result;
}

/** A mesh on the graphics card. */
export class GpuMesh {
  readonly array: WebGLVertexArrayObject;
  readonly count: number;
  readonly #buffers = new Map<number, WebGLBuffer>();
  #mesh: MeshData;
  /** The UVs that its tangents are of; undefined before any were asked for. */
  #oriented: Float32Array | undefined;
  /** Its UVs are under a hand: tangents follow once they rest. */
  unsettled = false;

  constructor(
    readonly gl: WebGL2RenderingContext,
    mesh: MeshData,
  ) {
    this.array = gl.createVertexArray();
    this.count = mesh.indices.length;
    this.#mesh = mesh;
    this.#fill(ATTRIBUTES.position, mesh.positions, 3);
    this.#fill(ATTRIBUTES.normal, mesh.normals, 3);
    this.#fill(ATTRIBUTES.uv, mesh.uvs, 2);
    if (mesh.colors) this.#fill(ATTRIBUTES.color, mesh.colors, 4);
    gl.bindVertexArray(null);
  }

  #fill(location: number, values: Float32Array, width: number): void {
    this.#send(location, spread(values, width, this.#mesh.indices), width);
  }

  #send(location: number, data: Float32Array, width: number): void {
    const { gl } = this;
    gl.bindVertexArray(this.array);
    let buffer = this.#buffers.get(location);
    if (!buffer) this.#buffers.set(location, (buffer = gl.createBuffer()));
    gl.bindBuffer(gl.ARRAY_BUFFER, buffer);
    gl.bufferData(gl.ARRAY_BUFFER, data, gl.STATIC_DRAW);
    gl.enableVertexAttribArray(location);
    gl.vertexAttribPointer(location, width, gl.FLOAT, false, 0, 0);
  }

  /** Whether a mesh is this one but for its UVs. */
  isFormOf({ positions, normals, colors, indices }: MeshData): boolean {
    const own = this.#mesh;
    return positions === own.positions && normals === own.normals && colors === own.colors && indices === own.indices;
  }

  /** Takes other UVs. */
  updateUvs(mesh: MeshData): void {
    if (mesh.uvs !== this.#mesh.uvs) this.#fill(ATTRIBUTES.uv, mesh.uvs, 2);
    this.#mesh = mesh;
    this.gl.bindVertexArray(null);
  }

  /**
   * Makes tangents, for those who read normals in them: by MikkTSpace (M. Mikkelsen, 2008), the standard that normal
   * maps are baked by. They are taken with v turned up, so that a normal's y is up on the picture.
   */
  computeTangents(): void {
    const { positions, normals, uvs, indices } = this.#mesh;
    if (this.#oriented === uvs || (this.#oriented && this.unsettled)) return;
    this.#oriented = uvs;
    const upright = spread(uvs, 2, indices);
    for (let i = 1; i < upright.length; i += 2) upright[i] = 1 - upright[i]!;
    this.#send(
      ATTRIBUTES.tangent,
      generateTangents(spread(positions, 3, indices), spread(normals, 3, indices), upright),
      4,
    );
    this.gl.bindVertexArray(null);
  }

  dispose(): void {
    this.gl.deleteVertexArray(this.array);
    for (const buffer of this.#buffers.values()) this.gl.deleteBuffer(buffer);
  }
}
