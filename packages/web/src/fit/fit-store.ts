import { islandsOf, NOTHING_CHOSEN, partOf, type Fitted, type Islands, type MeshData, type Part } from '@estela/core';
import { createStore, type StoreApi } from 'zustand/vanilla';
import { createKept, type Kept } from '../app/kept.ts';

/** A mesh in Fit, with its islands, and which of them are chosen. */
export interface Fitting {
  readonly mesh: MeshData;
  readonly islands: Islands;
  readonly chosen: ReadonlySet<number>;
}

export interface Fit {
  readonly kept: Kept<Fitting>;
  /** Why the last operation was not done; empty where it was. */
  readonly problem: StoreApi<string>;
  readonly choose: (islands: Iterable<number>) => void;
  /** Does something to the chosen islands, as one undo; says why where it cannot be done. */
  readonly apply: (title: string, act: (mesh: MeshData, part: Part) => Fitted) => void;
  /** Shows other UVs while something is dragged; `commit` makes one undo of it, undefined goes back. */
  readonly preview: (mesh: MeshData | undefined) => void;
  readonly commit: (title: string) => void;
}

/** The fitting of one mesh. `write` sends it. */
export function createFit(start: MeshData, write: (mesh: MeshData) => Promise<unknown>): Fit {
  const islands = islandsOf(start);
  const kept = createKept<Fitting>(
    { mesh: start, islands, chosen: new Set(islands.count === 1 ? [0] : []) },
    ({ mesh }) => write(mesh),
    (a, b) => a.mesh === b.mesh,
  );
  const problem = createStore(() => '');
  return {
    kept,
    problem,
    choose(which) {
      problem.setState('', true);
      kept.put({ ...kept.getState().value, chosen: new Set(which) });
    },
    apply(title, act) {
      const { mesh, islands: before, chosen } = kept.getState().value;
      const done: Fitted = chosen.size === 0 ? NOTHING_CHOSEN : act(mesh, partOf(before, chosen));
      if ('problem' in done) {
        problem.setState(done.problem, true);
        return;
      }
      problem.setState('', true);
      const after = islandsOf(done.mesh);
      kept.become(title, { mesh: done.mesh, islands: after, chosen: chosenAfter(mesh, before, chosen, done.mesh, after) });
    },
    preview(mesh) {
      // UVs that move keep their islands, even where they come to lie on each other.
      kept.preview(mesh && { ...kept.getState().value, mesh });
    },
    commit: kept.commit,
  };
}

/** The islands that hold what was chosen before: by their triangles, which keep their numbers, or come last where there are more of them now. */
function chosenAfter(mesh: MeshData, before: Islands, chosen: ReadonlySet<number>, next: MeshData, after: Islands): Set<number> {
  const result = new Set<number>();
  const was = (t: number): boolean => chosen.has(before.ofVertex[mesh.indices[t * 3]!]!);
  const count = mesh.indices.length / 3;
  const same = next.indices.length === mesh.indices.length;
  let rest = 0;
  for (let t = 0; t < count; t++) if (!was(t)) rest++;
  for (let t = 0; t < next.indices.length / 3; t++) if (same ? was(t) : t >= rest) result.add(after.ofVertex[next.indices[t * 3]!]!);
  return result;
}
