import {
  allOf,
  connectedTo,
  isEmpty,
  islandsIn,
  loopsThrough,
  noneOf,
  selectionOf,
  wholeFaces,
  type FaceGraph,
  type Fitting,
  type Selection,
} from '@estela/core';
import { createStore, type StoreApi } from 'zustand/vanilla';
import type { Refitter } from '../workers/refitter.ts';

/** What a click selects. */
export type Unit = 'islands' | 'faces';

export interface Selecting {
  readonly unit: StoreApi<Unit>;
  readonly setUnit: (unit: Unit) => void;
  readonly all: () => void;
  readonly none: () => void;
  /** The island or the face of a triangle; with `more` one more, or one less where it is selected. */
  readonly at: (triangle: number, more: boolean) => void;
  /** The islands or faces of some triangles; with `more` beside those that are selected. */
  readonly these: (triangles: readonly number[], more: boolean) => void;
  /** The island or face after the last selected one, or before the first, round the ends; with `more` beside those. */
  readonly next: (by: 1 | -1, more: boolean) => void;
  /** All that hangs together in space with what is selected. */
  readonly connected: () => Promise<void>;
  /** The loops of faces that run through what is selected. */
  readonly loop: () => Promise<void>;
}

/** `put` takes a selection where one can be made. */
export function createSelecting(
  value: () => Fitting,
  put: (selected: Selection) => void,
  worker: Pick<Refitter, 'faces'>,
): Selecting {
  const unit = createStore<Unit>(() => 'islands');
  /** Faces are those of places in space and of triangles: UVs do not change them. */
  let known: { readonly indices: Uint32Array; readonly graph: Promise<FaceGraph>; made?: FaceGraph } | undefined;
  const graphOf = ({ mesh }: Fitting): Promise<FaceGraph> => {
    if (known?.indices !== mesh.indices) {
      const own: NonNullable<typeof known> = { indices: mesh.indices, graph: worker.faces(mesh) };
      known = own;
      own.graph.then(
        (graph) => (own.made = graph),
        () => {
          if (known === own) known = undefined;
        },
      );
    }
    return known.graph;
  };
  /** The whole units that triangles belong to; faces before they are known are triangles. */
  const unitsOf = (triangles: readonly number[]): Selection => {
    const { mesh, islands } = value();
    if (unit.getState() === 'islands')
      return selectionOf(mesh, islands, new Set(triangles.map((t) => islands.ofVertex[mesh.indices[t * 3]!]!)));
    void graphOf(value()).catch(() => undefined);
    const made = known?.made;
    const marks = noneOf(mesh);
    for (const t of made ? wholeFaces(made, triangles) : triangles) marks[t] = 1;
    return marks;
  };
  const joined = (one: Selection, other: Selection): Selection => one.map((mark, t) => mark | other[t]!);
  const these = (triangles: readonly number[], more: boolean): void => {
    const found = unitsOf(triangles);
    put(more ? joined(value().selected, found) : found);
  };
  const through = async (of: (graph: FaceGraph, selected: Selection) => Selection): Promise<void> => {
    const asked = value();
    if (isEmpty(asked.selected)) return;
    try {
      const graph = await graphOf(asked);
      // Another selection was made meanwhile, or the mesh was cut.
      if (value().selected === asked.selected) put(of(graph, asked.selected));
    } catch {
      // Whoever stopped the worker knows.
    }
  };
  const nextIsland = (by: 1 | -1, more: boolean): void => {
    const { mesh, islands, selected } = value();
    const { some } = islandsIn(mesh, islands, selected);
    const from = by > 0 ? Math.max(-1, ...some) : Math.min(islands.count, ...some);
    const next = (from + by + islands.count) % islands.count;
    put(selectionOf(mesh, islands, new Set(more ? [...some, next] : [next])));
  };
  return {
    unit,
    setUnit(next) {
      unit.setState(next, true);
      if (next === 'faces') void graphOf(value()).catch(() => undefined);
    },
    all() {
      put(allOf(value().mesh));
    },
    none() {
      put(noneOf(value().mesh));
    },
    at(triangle, more) {
      const found = unitsOf([triangle]);
      const { selected } = value();
      if (!more) put(found);
      else if (selected[triangle] === 1) put(selected.map((mark, t) => (found[t] === 1 ? 0 : mark)));
      else put(joined(selected, found));
    },
    these,
    next(by, more) {
      const { mesh, islands, selected } = value();
      if (islands.count === 0) return;
      if (unit.getState() === 'islands') {
        nextIsland(by, more);
        return;
      }
      const count = mesh.indices.length / 3;
      const from = by > 0 ? selected.lastIndexOf(1) : selected.indexOf(1);
      these([from < 0 ? (by > 0 ? 0 : count - 1) : (from + by + count) % count], more);
    },
    connected: () => through(connectedTo),
    loop: () => through(loopsThrough),
  };
}
