import { NOTHING_SELECTED, type Axis, type Fitted, type Part } from './fit.ts';
import { joined, separated } from './joining.ts';
import { cylindrical, planar, unrolled, type LayoutAxis } from './layouts.ts';
import { withLoops } from './loops.ts';
import type { MeshData } from './mesh.ts';
import { islandsIn, isEmpty, partOf, withOwnVertices, type Selection } from './selection.ts';
import { straighten, stripOf } from './straighten.ts';
import { islandsOf, type Islands } from './weld.ts';

/** A mesh whose UVs are fitted, with its islands, and which of its triangles are selected. */
export interface Fitting {
  readonly mesh: MeshData;
  readonly islands: Islands;
  readonly selected: Selection;
}

interface Refits {
  readonly planar: { readonly about: LayoutAxis };
  readonly cylindrical: { readonly about: LayoutAxis };
  readonly unroll: { readonly about: LayoutAxis };
  readonly straighten: { readonly along: Axis };
  readonly loops: { readonly across: Axis; readonly count: number };
  readonly separate: object;
  readonly join: object;
}
/** Something done to the selected faces that projects or cuts them anew, as a value that a worker can be sent. */
export type Refit = { readonly [K in keyof Refits]: { readonly do: K } & Refits[K] }[keyof Refits];

/** What is done to the selected faces, which have vertices of their own by then. */
const ACTS: { readonly [K in keyof Refits]: (mesh: MeshData, part: Part, how: Refits[K], value: Fitting) => Fitted } = {
  planar: (mesh, part, { about }) => planar(mesh, part, about),
  cylindrical: (mesh, part, { about }) => cylindrical(mesh, part, about),
  unroll: (mesh, part, { about }) => unrolled(mesh, part, about),
  straighten: (mesh, part, { along }) => straighten(mesh, part, along),
  loops: (mesh, part, { across, count }, value) => loops(mesh, part, across, count, value),
  separate: (mesh, part) => separated(mesh, part),
  join: (mesh, part) => joined(mesh, part),
};

/**
 * What comes of it, with the islands that there are then; or why it cannot be done. It takes up to seconds for a mesh
 * of 200,000 triangles.
 */
export function refit(value: Fitting, how: Refit): Fitting | Exclude<Fitted, { readonly mesh: MeshData }> {
  if (isEmpty(value.selected)) return NOTHING_SELECTED;
  const own = withOwnVertices(value.mesh, value.selected);
  const act = ACTS[how.do] as (mesh: MeshData, part: Part, how: Refit, value: Fitting) => Fitted;
  const done = act(own, partOf(own, value.selected), how, value);
  if ('problem' in done) return done;
  const { mesh } = done;
  return { mesh, islands: islandsOf(mesh), selected: selectedAfter(value.selected, mesh, how.do === 'loops') };
}

/** Triangles keep their numbers; where they were cut, those that were selected come last. */
function selectedAfter(before: Selection, { indices }: MeshData, cut: boolean): Selection {
  if (!cut) return before;
  const rest = before.length - before.reduce((sum, mark) => sum + mark, 0);
  return new Uint8Array(indices.length / 3).fill(1, rest);
}

/**
 * Edge loops across an axis of the layout; where a strip lies in several islands, no axis runs along it there, and they come at
 * equal shares of its length in space.
 */
function loops(
  mesh: MeshData,
  part: Part,
  across: Axis,
  count: number,
  { islands, selected, mesh: was }: Fitting,
): Fitted {
  const strip = islandsIn(was, islands, selected).some.size > 1 ? stripOf(mesh, part) : undefined;
  if (!strip || 'problem' in strip) return withLoops(mesh, part, across, count);
  const straight = straighten(mesh, part, 'u');
  if ('problem' in straight) return straight;
  const next = straight.mesh;
  const [along, uvs] = [new Float64Array(next.positions.length / 3), new Float32Array(next.uvs.length)];
  // The triangles stand as they did: each corner has the UV that it had, and the share that it has now.
  next.indices.forEach((v, i) => {
    along[v] = next.uvs[v * 2]!;
    uvs.set(mesh.uvs.subarray(mesh.indices[i]! * 2, mesh.indices[i]! * 2 + 2), v * 2);
  });
  const torn = { ...next, uvs };
  return withLoops(torn, partOf(torn, selected), across, count, along);
}
