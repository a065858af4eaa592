import { ADDRESSES, costOfAll, CROSSING, GROUP, WORTH } from './costs.ts';
import { isLeaf, postorder } from './places.ts';
import { RATES, type Term, type Terms } from './terms.ts';

/**
 * Pass 3: what hangs on the row and on which cell of a lattice a pixel lies in, but not on where in the cell, has only as many
 * values a row as there are cells. They are computed once a row for each cell, and looked up by pixels. Of them, what hangs
 * on the row only by the cell that it lies in is computed once for all rows of that cell.
 */

/** Values by the cell of a lattice: four stand together in one vector. */
export interface Table {
  /** The numbers of a pixel's cell, from 0: across, and down where entries are of a whole frame. */
  readonly indices: readonly [Term, Term?];
  /** Cells across, and down. */
  readonly counts: readonly [number, number];
  /** Bytes from the table's start to a pixel's entry. */
  readonly address: Term;
  /** What pixels ask of it. */
  readonly values: readonly Term[];
  readonly lines: Lines | undefined;
}

/** What stays the same while rows lie in one cell. */
export interface Lines {
  /** The numbers of that cell, in each lattice. */
  readonly indices: readonly Term[];
  /** Computed for each cell across when one of those changes. */
  readonly values: readonly Term[];
}

/** Vectors of four values. */
export const groupsOf = (values: readonly Term[]): number => Math.ceil(values.length / 4);
/** Cells are computed four at a time. */
export const inFours = (count: number): number => Math.ceil(count / 4) * 4;
export const tableBytes = ({ counts, values }: Table): number => inFours(counts[0]) * counts[1] * groupsOf(values) * 16;

/** Cells across at most, as a share of the pixels. */
const MOST_SHARE = 0.5;

/** Cells of a lattice whose cell a term numbers: floor(fract(x) * n). Undefined of others. */
export function cellsOf(term: Term): number | undefined {
  const [product] = term.args;
  if (term.op !== 'floor' || product?.op !== 'mul') return undefined;
  const [a, b] = product.args as readonly [Term, Term];
  const [part, count] = a.op === 'fract' ? [a, b] : [b, a];
  return part.op === 'fract' && count.op === 'constant' && Number.isInteger(count.payload) && count.payload >= 1
    ? count.payload
    : undefined;
}

export interface TableSize {
  /** Pixels of a row. */
  readonly width: number;
  /** Rows of a frame that are computed one after the other. */
  readonly rows: number;
}

/** Which tables pay, of terms with operands first; results are asked of them too. */
export function tablesOf(
  order: readonly Term[],
  results: readonly Term[],
  terms: Terms,
  { width, rows }: TableSize,
  withLines = true,
): Table[] {
  const counts = new Map<Term, number>();
  const steps = new Map<Term, number>();
  for (const term of order) {
    const count = cellsOf(term);
    if (count === undefined) continue;
    if (term.rate === RATES.column && count <= width * MOST_SHARE) counts.set(term, count);
    if (term.rate === RATES.row && count <= rows * MOST_SHARE) steps.set(term, count);
  }
  const cellOf = hangingOn(order, new Set(counts.keys()), (term) => term.op === 'input' && term.payload === 0);
  const isCell = (term: Term): boolean => term.rate === RATES.pixel && cellOf.get(term)?.size === 1;
  const wanted = new Map<Term, Set<Term>>();
  const asking = order.filter((term) => term.rate === RATES.pixel && !isCell(term));
  for (const term of [...asking.flatMap((t) => t.args), ...results].filter(isCell)) {
    const [index] = cellOf.get(term)!;
    wanted.set(index!, (wanted.get(index!) ?? new Set()).add(term));
  }
  if (wanted.size === 0) return [];
  const lineOf = hangingOn(order, new Set(steps.keys()), (term) => term.op === 'input' && term.payload === 1);
  return [...wanted].flatMap(([index, set]) => {
    const values = [...set];
    const count = counts.get(index)!;
    const all = cellTerms(values, index);
    const lines = withLines ? linesOf(all, values, lineOf) : undefined;
    const stays = lines ? cellTerms(lines.values, index) : [];
    // How often lines change, a row.
    const changes = Math.min(
      1,
      (lines?.indices ?? []).reduce((sum, step) => sum + steps.get(step)! / rows, 0),
    );
    const own = costOfAll(cellTerms(values, index, new Set(lines?.values)));
    const staying = costOfAll(stays) * changes + CROSSING * (lines?.values.length ?? 0);
    const isLined = lines !== undefined && own + staying < costOfAll(all) * WORTH;
    const filling = ((isLined ? own + staying : costOfAll(all)) * count) / width;
    if (filling + ADDRESSES + GROUP * groupsOf(values) >= costOfAll(all) * WORTH) return [];
    const address = terms.address([index], 1, groupsOf(values) * 16);
    return [{ indices: [index], counts: [count, 1], address, values, lines: isLined ? lines : undefined } as const];
  });
}

/**
 * Of each term the lattices' cell numbers that it hangs on; undefined where it hangs on a place that `isBare` tells by itself as
 * well, and of leaves.
 */
export function hangingOn(
  order: readonly Term[],
  indices: ReadonlySet<Term>,
  isBare: (term: Term) => boolean,
): Map<Term, ReadonlySet<Term> | undefined> {
  const hangs = new Map<Term, ReadonlySet<Term> | undefined>();
  const none: ReadonlySet<Term> = new Set();
  for (const term of order) {
    let on: ReadonlySet<Term> | undefined = isBare(term) ? undefined : none;
    for (const arg of term.args) {
      const own = indices.has(arg) ? new Set([arg]) : hangs.get(arg);
      if (own === undefined) on = undefined;
      else if (on !== undefined && own.size > 0) on = on.size === 0 ? own : joined(on, own);
      if (on === undefined) break;
    }
    hangs.set(term, on);
  }
  for (const term of order) if (isLeaf(term)) hangs.set(term, undefined);
  return hangs;
}

/** One set for the same members, where one has them all. */
function joined(a: ReadonlySet<Term>, b: ReadonlySet<Term>): ReadonlySet<Term> {
  if ([...b].every((term) => a.has(term))) return a;
  return [...a].every((term) => b.has(term)) ? b : new Set([...a, ...b]);
}

/** Which of a table's terms stay the same over several rows, and which of those the others ask for. */
function linesOf(
  all: readonly Term[],
  values: readonly Term[],
  lineOf: ReadonlyMap<Term, ReadonlySet<Term> | undefined>,
): Lines | undefined {
  const stays = (term: Term): boolean => term.rate === RATES.pixel && lineOf.get(term) !== undefined;
  const asked = new Set(all.filter((term) => !stays(term)).flatMap((term) => term.args.filter(stays)));
  for (const value of values) if (stays(value)) asked.add(value);
  if (asked.size === 0) return undefined;
  const indices = new Set([...asked].flatMap((term) => [...lineOf.get(term)!]));
  return { indices: [...indices], values: [...asked] };
}

/** The terms that make values from a cell's number and from what is computed once a row; not what makes `given`. */
export const cellTerms = (values: readonly Term[], index: Term, given: ReadonlySet<Term> = new Set()): Term[] =>
  postorder(
    values,
    (term) => isLeaf(term) || term === index || term.rate === RATES.frame || term.rate === RATES.row || given.has(term),
  );
