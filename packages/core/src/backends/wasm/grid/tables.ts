import { isLeaf, postorder, type Placement } from './places.ts';
import { RATES, type Term } from './terms.ts';

/**
 * Pass 4: what hangs on the row and on which cell of a lattice a pixel lies in, but not on where in the cell, has only as many
 * values a row as there are cells. They are computed once a row for each cell, and looked up by pixels.
 */

/** Values of a row by the cell of a lattice: four stand together in one vector. */
export interface Table {
  /** The number of a pixel's cell, from 0. */
  readonly index: Term;
  /** Cells across. */
  readonly count: number;
  /** What pixels ask of it. */
  readonly values: readonly Term[];
}

export interface Tables {
  readonly all: readonly Table[];
  /** Terms that are computed in tables alone. */
  readonly inside: ReadonlySet<Term>;
}

/** Vectors of four values. */
export const groupsOf = ({ values }: Table): number => Math.ceil(values.length / 4);

/** Cells across at most, as a share of the pixels. */
const MOST_SHARE = 0.5;
/** Instructions that looking up takes: addresses, and for each four values the loads and the turning of them. */
const [ADDRESSES, GROUP] = [4, 12];
/** As little may be saved at least. */
const WORTH = 0.9;

/** Cells across of a lattice whose cell a term numbers; undefined of others: floor(fract(x) * n), x of the column alone. */
function cellsOf(term: Term, rate: number): number | undefined {
  const [product] = term.args;
  if (term.op !== 'floor' || rate !== RATES.column || product?.op !== 'mul') return undefined;
  const [a, b] = product.args as readonly [Term, Term];
  const [part, count] = a.op === 'fract' ? [a, b] : [b, a];
  return part.op === 'fract' && count.op === 'constant' && Number.isInteger(count.payload) && count.payload >= 1
    ? count.payload
    : undefined;
}

/** Which tables pay for rows of so many pixels; results are asked of them too. */
export function tablesOf(
  { order }: Placement,
  results: readonly Term[],
  rateOf: (term: Term) => number,
  width: number,
): Tables {
  const counts = new Map<Term, number>();
  for (const term of order) {
    const count = cellsOf(term, rateOf(term));
    if (count !== undefined && count <= width * MOST_SHARE) counts.set(term, count);
  }
  const cellOf = singleCells(order, new Set(counts.keys()));
  const isCell = (term: Term): boolean => rateOf(term) === RATES.pixel && cellOf.get(term) !== undefined;
  const asking = order.filter((term) => rateOf(term) === RATES.pixel && !isCell(term));
  const wanted = new Map<Term, Set<Term>>();
  for (const term of [...asking.flatMap((t) => t.args), ...results].filter(isCell)) {
    const index = cellOf.get(term)!;
    wanted.set(index, (wanted.get(index) ?? new Set()).add(term));
  }
  const all = [...wanted]
    .map(([index, values]) => ({ index, count: counts.get(index)!, values: [...values] }))
    .filter((table) => isWorth(table, rateOf, width));
  const used = new Set(all.map((table) => table.index));
  return { all, inside: new Set(order.filter((term) => isCell(term) && used.has(cellOf.get(term)!))) };
}

/** Of each term the one cell number that it hangs on, besides the row; undefined where it hangs on more, or on none. */
function singleCells(order: readonly Term[], indices: ReadonlySet<Term>): Map<Term, Term | undefined> {
  /** null: on a column's own place, or on several cells. */
  const hangs = new Map<Term, Term | null | undefined>();
  for (const term of order) {
    let on: Term | null | undefined = term.op === 'input' && term.payload === 0 ? null : undefined;
    for (const arg of term.args) {
      const own = indices.has(arg) ? arg : hangs.get(arg);
      if (own === undefined || own === on) continue;
      on = on === undefined ? own : null;
    }
    hangs.set(term, on);
  }
  return new Map([...hangs].map(([term, on]) => [term, isLeaf(term) ? undefined : (on ?? undefined)]));
}

/** Whether a table takes less than computing its values for each pixel. */
function isWorth(table: Table, rateOf: (term: Term) => number, width: number): boolean {
  const inside = cellTerms(table, rateOf).length;
  return (inside * table.count) / width + ADDRESSES + GROUP * groupsOf(table) < inside * WORTH;
}

/** The terms that make a table's values, from its cell numbers and from what is computed once a row. */
export const cellTerms = ({ index, values }: Table, rateOf: (term: Term) => number): Term[] =>
  postorder(
    values,
    (term) => isLeaf(term) || term === index || rateOf(term) === RATES.frame || rateOf(term) === RATES.row,
  );
