import type { CutFace } from './quads.ts';
import { edgeOf, sidesByEdge } from './weld.ts';
import { reasons } from '../diagnostics/reasons.ts';

/** Whole coordinates of a corner: columns and rows. */
export type Corner = readonly [number, number];

/** Quads that lie in columns and rows: for each the coordinates of its four corners, from 0. */
export interface Lattice {
  readonly corners: readonly (readonly Corner[])[];
  /** Quads across and down. */
  readonly size: readonly [number, number];
  /** Whether the last column meets the first, and the last row the first. */
  readonly closed: readonly [boolean, boolean];
}

/** Why quads are no strip, and which of them stand in the way. */
export interface NoLattice {
  readonly problem: string;
  readonly faces: readonly number[];
}

const FIRST: readonly Corner[] = [
  [0, 0],
  [1, 0],
  [1, 1],
  [0, 1],
];

/**
 * Counts columns and rows through quads that hang together by edges in space, whatever their UVs; `weld` tells which vertices
 * are at one place. Strips that close are cut where counting began.
 */
export function latticeOf(quads: readonly CutFace[], weld: Int32Array): Lattice | NoLattice {
  const places = quads.map(({ face }) => face.map((v) => weld[v]!));
  const edges = new Map(
    [
      ...sidesByEdge(
        quads.map(({ face }) => face),
        weld,
      ),
    ].map(([edge, sides]) => [edge, sides.map((side) => side >> 2)]),
  );
  const branches = [...edges.values()].filter((some) => some.length > 2).flat();
  if (branches.length > 0)
    return {
      problem: reasons.branches,
      faces: [...new Set(branches)],
    };
  const corners: (readonly Corner[] | undefined)[] = quads.map((_, q) => (q === 0 ? FIRST : undefined));
  const periods: [number, number] = [0, 0];
  const queue = [0];
  // It grows as it is gone through.
  for (const q of queue) {
    const [{ face }, own] = [quads[q]!, corners[q]!];
    for (let k = 0; k < 4; k++) {
      const next = edges.get(edgeOf(weld, face[k]!, face[(k + 1) % 4]!))!.find((other) => other !== q);
      if (next === undefined) continue;
      const found = across(places[q]!, own, k, places[next]!);
      const known = corners[next];
      if (!known) {
        corners[next] = found;
        queue.push(next);
        continue;
      }
      const [dx, dy] = [found[0]![0] - known[0]![0], found[0]![1] - known[0]![1]];
      const isSame = found.every(([x, y], i) => x - known[i]![0] === dx && y - known[i]![1] === dy);
      if (!isSame || (dx !== 0 && dy !== 0))
        return {
          problem:
            'These faces do not form rows and columns: not every vertex has four of them, or the strip is twisted. Deselect the marked faces, or use Planar or Unroll.',
          faces: [q, next],
        };
      for (const [axis, d] of [dx, dy].entries()) {
        if (d === 0) continue;
        const period = periods[axis as 0 | 1];
        if (period !== 0 && period !== Math.abs(d))
          return {
            problem: reasons.closesTwice,
            faces: [q, next],
          };
        periods[axis as 0 | 1] = Math.abs(d);
      }
    }
  }
  if (queue.length < quads.length) {
    const apart = quads.map((_, q) => q).filter((q) => !corners[q]);
    const fewer = apart.length * 2 <= quads.length ? apart : queue;
    return {
      problem: reasons.pieces,
      faces: fewer,
    };
  }
  return placed(corners as (readonly Corner[])[], periods);
}

/** The corners of a quad that has edge `k` of another in common. */
function across(face: readonly number[], own: readonly Corner[], k: number, next: readonly number[]): Corner[] {
  const [a, b] = [face[k]!, face[(k + 1) % 4]!];
  const [pa, pb, back] = [own[k]!, own[(k + 1) % 4]!, own[(k + 2) % 4]!];
  const away: Corner = [pb[0] - back[0], pb[1] - back[1]];
  const j = next.findIndex((v, i) => {
    const after = next[(i + 1) % 4]!;
    return (v === a && after === b) || (v === b && after === a);
  });
  const [first, second] = next[j] === a ? [pa, pb] : [pb, pa];
  const beyond = ([x, y]: Corner): Corner => [x + away[0], y + away[1]];
  const from = [first, second, beyond(second), beyond(first)];
  return next.map((_, i) => from[(i - j + 4) % 4]!);
}

/** Brings coordinates to 0 and above, and closed ones into one round; the quads must fill the rectangle. */
function placed(corners: readonly (readonly Corner[])[], periods: readonly [number, number]): Lattice | NoLattice {
  const cellOf = (quad: readonly Corner[], axis: 0 | 1): number => Math.min(...quad.map((c) => c[axis]));
  const axes = ([0, 1] as const).map((axis) => {
    const cells = corners.map((quad) => cellOf(quad, axis));
    const low = cells.reduce((least, cell) => Math.min(least, cell), Infinity);
    const period = periods[axis];
    const size = period || cells.reduce((most, cell) => Math.max(most, cell), -Infinity) - low + 1;
    /** How far a quad is moved, so that it lies within. */
    const shifts = cells.map((cell) => (period ? -cell + ((cell - low) % period) : -low));
    return { size, shifts };
  });
  const size = axes.map((axis) => axis.size) as [number, number];
  const shifted = corners.map((quad, q) =>
    quad.map(([x, y]): Corner => [x + axes[0]!.shifts[q]!, y + axes[1]!.shifts[q]!]),
  );
  const cells = new Map<number, number>();
  const double: number[] = [];
  shifted.forEach((quad, q) => {
    const cell = cellOf(quad, 1) * size[0] + cellOf(quad, 0);
    if (cells.has(cell)) double.push(q, cells.get(cell)!);
    else cells.set(cell, q);
  });
  if (double.length > 0)
    return {
      problem: reasons.overlaps,
      faces: [...new Set(double)],
    };
  if (cells.size !== size[0] * size[1]) return { problem: reasons.notches, faces: raggedIn(cells, size) };
  return { corners: shifted, size, closed: [periods[0] > 0, periods[1] > 0] };
}

/** The quads of columns, or of rows, that are not full: of the two the fewer. */
function raggedIn(cells: ReadonlyMap<number, number>, [across, down]: readonly [number, number]): number[] {
  const [columns, rows] = [new Array<number>(across).fill(0), new Array<number>(down).fill(0)];
  for (const cell of cells.keys()) {
    columns[cell % across]!++;
    rows[Math.floor(cell / across)]!++;
  }
  const inRows = [...cells].filter(([cell]) => rows[Math.floor(cell / across)]! < across).map(([, q]) => q);
  const inColumns = [...cells].filter(([cell]) => columns[cell % across]! < down).map(([, q]) => q);
  return inRows.length < inColumns.length ? inRows : inColumns;
}
