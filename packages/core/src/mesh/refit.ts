import { NOTHING_CHOSEN, partOf, type Axis, type Fitted, type Part } from './fit.ts';
import { cylindrical, planar, unrolled, type LayoutAxis } from './layouts.ts';
import { withLoops } from './loops.ts';
import type { MeshData } from './mesh.ts';
import { straighten } from './straighten.ts';
import { islandsOf, type Islands } from './weld.ts';

/** A mesh whose UVs are fitted, with its islands, and which of them are chosen. */
export interface Fitting {
  readonly mesh: MeshData;
  readonly islands: Islands;
  readonly chosen: ReadonlySet<number>;
}

interface Refits {
  readonly planar: { readonly about: LayoutAxis };
  readonly cylindrical: { readonly about: LayoutAxis };
  readonly unroll: { readonly about: LayoutAxis };
  readonly straighten: { readonly along: Axis };
  readonly loops: { readonly across: Axis; readonly count: number };
}
/** Something done to the chosen islands that lays or cuts them anew, as a value that a worker can be sent. */
export type Refit = { readonly [K in keyof Refits]: { readonly do: K } & Refits[K] }[keyof Refits];

const ACTS: { readonly [K in keyof Refits]: (mesh: MeshData, part: Part, how: Refits[K]) => Fitted } = {
  planar: (mesh, part, { about }) => planar(mesh, part, about),
  cylindrical: (mesh, part, { about }) => cylindrical(mesh, part, about),
  unroll: (mesh, part, { about }) => unrolled(mesh, part, about),
  straighten: (mesh, part, { along }) => straighten(mesh, part, along),
  loops: (mesh, part, { across, count }) => withLoops(mesh, part, across, count),
};

/**
 * What comes of it, with the islands that there are then; or why it cannot be done. It takes up to seconds for a mesh
 * of 200,000 triangles.
 */
export function refit({ mesh, islands, chosen }: Fitting, how: Refit): Fitting | { readonly problem: string } {
  const act = ACTS[how.do] as (mesh: MeshData, part: Part, how: Refit) => Fitted;
  const done = chosen.size === 0 ? NOTHING_CHOSEN : act(mesh, partOf(islands, chosen), how);
  if ('problem' in done) return done;
  const after = islandsOf(done.mesh);
  return {
    mesh: done.mesh,
    islands: after,
    chosen: chosenAfter(mesh, islands, chosen, done.mesh, after, how.do === 'loops'),
  };
}

/**
 * The islands that hold what was chosen before: by their triangles, which keep their numbers, or come last where they
 * were cut.
 */
function chosenAfter(
  mesh: MeshData,
  before: Islands,
  chosen: ReadonlySet<number>,
  next: MeshData,
  after: Islands,
  cut: boolean,
): Set<number> {
  const result = new Set<number>();
  const was = (t: number): boolean => chosen.has(before.ofVertex[mesh.indices[t * 3]!]!);
  const count = mesh.indices.length / 3;
  let rest = 0;
  for (let t = 0; t < count; t++) if (!was(t)) rest++;
  for (let t = 0; t < next.indices.length / 3; t++)
    if (cut ? t >= rest : was(t)) result.add(after.ofVertex[next.indices[t * 3]!]!);
  return result;
}
