import { TRIANGLE_LIMIT, type MeshData } from '@estela/core';
import { BufferAttribute, BufferGeometry, Mesh, type Object3D } from 'three';
import { OBJExporter } from 'three/addons/exporters/OBJExporter.js';
import { OBJLoader } from 'three/addons/loaders/OBJLoader.js';
import type { Corners } from './corners.ts';
import { PART_LIMIT, tooManyParts, tooManyTriangles } from './limits.ts';

const turnedOver = (uvs: ArrayLike<number>): Float32Array =>
  Float32Array.from(uvs, (x, i) => (i % 2 === 1 ? 1 - x : x));

/** Counts the triangles and parts of an OBJ text, line by line, before anything is made of them. */
function count(text: string): void {
  let [triangles, parts] = [0, 0];
  // As the loader reads them: a word need not end in a blank.
  for (const [, word, rest = ''] of text
    .replaceAll('\r\n', '\n')
    .replaceAll('\\\n', '')
    .matchAll(/^\s*(f|o|g|usemtl)(.*)$/gm))
    if (word !== 'f') parts++;
    else triangles += Math.max((rest.match(/\S+/g)?.length ?? 0) - 2, 0);
  if (triangles > TRIANGLE_LIMIT) throw tooManyTriangles(triangles);
  if (parts > PART_LIMIT) throw tooManyParts(parts);
}

/**
 * The faces of a Wavefront OBJ text, larger ones as fans of triangles; lines and points are left out. Its v runs up,
 * ours down.
 */
export function readObj(text: string): Corners[] {
  count(text);
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
