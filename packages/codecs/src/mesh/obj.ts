import type { MeshData } from '@estela/core';
import { BufferAttribute, BufferGeometry, Mesh, type Object3D } from 'three';
import { OBJExporter } from 'three/addons/exporters/OBJExporter.js';
import { OBJLoader } from 'three/addons/loaders/OBJLoader.js';
import type { Corners } from './corners.ts';

const turnedOver = (uvs: ArrayLike<number>): Float32Array => Float32Array.from(uvs, (x, i) => (i % 2 === 1 ? 1 - x : x));

/** The faces of a Wavefront OBJ text, larger ones as fans of triangles; lines and points are left out. Its v runs up, ours down. */
export function readObj(text: string): Corners[] {
  const parts: Corners[] = [];
  new OBJLoader().parse(text).traverse((object: Object3D) => {
    if (!(object instanceof Mesh)) return;
    const { attributes } = object.geometry as BufferGeometry;
    const { position, normal, uv, color } = attributes;
    if (!position) return;
    parts.push({
      positions: position.array,
      normals: normal?.array,
      uvs: uv && turnedOver(uv.array),
      colors: color && { values: color.array, width: 3 },
    });
  });
  return parts;
}

/** A mesh as Wavefront OBJ. */
export function objOf({ positions, normals, uvs, colors, indices }: MeshData, name: string): string {
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(positions, 3));
  geometry.setAttribute('normal', new BufferAttribute(normals, 3));
  geometry.setAttribute('uv', new BufferAttribute(turnedOver(uvs), 2));
  if (colors) geometry.setAttribute('color', new BufferAttribute(colors, 4));
  geometry.setIndex(new BufferAttribute(indices, 1));
  const mesh = new Mesh(geometry);
  mesh.name = name;
  return new OBJExporter().parse(mesh);
}
