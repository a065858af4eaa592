import type { MeshData } from './mesh.ts';
import type { Part } from './fit.ts';
import { Rebuild } from './rebuild.ts';
import type { Islands } from './weld.ts';

/** Which triangles of a mesh are selected: a mark for each, 1 for those that are. */
export type Selection = Uint8Array;

export const noneOf = ({ indices }: MeshData): Selection => new Uint8Array(indices.length / 3);
export const allOf = (mesh: MeshData): Selection => noneOf(mesh).fill(1);
export const isEmpty = (selected: Selection): boolean => !selected.includes(1);

/** The triangles of some islands. */
export const selectionOf = ({ indices }: MeshData, { ofVertex }: Islands, some: ReadonlySet<number>): Selection =>
  Uint8Array.from({ length: indices.length / 3 }, (_, t) => (some.has(ofVertex[indices[t * 3]!]!) ? 1 : 0));

/** The islands of which any triangle is selected, and those of which all are. */
export function islandsIn(
  { indices }: MeshData,
  { count, ofVertex }: Islands,
  selected: Selection,
): { readonly some: ReadonlySet<number>; readonly whole: ReadonlySet<number> } {
  const [some, whole] = [new Set<number>(), new Set(Array.from({ length: count }, (_, i) => i))];
  for (let t = 0; t < selected.length; t++) {
    const island = ofVertex[indices[t * 3]!]!;
    if (selected[t] === 1) some.add(island);
    else whole.delete(island);
  }
  return { some, whole };
}

/** The vertices of what is selected. Those that other triangles have as well belong to it. */
export function partOf({ positions, indices }: MeshData, selected: Selection): Part {
  const part = new Uint8Array(positions.length / 3);
  for (let t = 0; t < selected.length; t++)
    if (selected[t] === 1) for (let k = 0; k < 3; k++) part[indices[t * 3 + k]!] = 1;
  return part;
}

/** The same mesh, whose selected triangles share no vertex with others: where they do, they get a copy. */
export function withOwnVertices(mesh: MeshData, selected: Selection): MeshData {
  const others = partOf(
    mesh,
    selected.map((mark) => 1 - mark),
  );
  const part = partOf(mesh, selected);
  if (!part.some((mark, v) => mark === 1 && others[v] === 1)) return mesh;
  const rebuilt = new Rebuild(mesh);
  const copies = new Map<number, number>();
  const triangles = Array.from(mesh.indices, (v, i) => {
    if (selected[Math.floor(i / 3)] !== 1 || others[v] !== 1) return v;
    let copy = copies.get(v);
    if (copy === undefined) copies.set(v, (copy = rebuilt.copy(v, ...rebuilt.uvOf(v))));
    return copy;
  });
  return rebuilt.finish(triangles);
}
