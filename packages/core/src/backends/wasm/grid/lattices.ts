import { ADDRESSES, costOfAll, GROUP, WORTH } from './costs.ts';
import { isLeaf, postorder } from './places.ts';
import { cellsOf, groupsOf, hangingOn, inFours, tableBytes, type Table, type TableSize } from './tables.ts';
import { RATES, type Term, type Terms } from './terms.ts';

/**
 * Pass 4: where coordinates are turned or warped, no cell lies on a row. What hangs on the two numbers of a cell alone, in
 * whatever way those come about, is computed once a frame for all cells, and looked up by pixels.
 */

/** Entries of a table at most, so that it stays in the second cache. */
const MOST_BYTES = 600 * 1024;
/** Putting two numbers together, and making an address of them. */
const PLACES = 5;

/** Which pay, of the terms that are computed for pixels, operands first; results are asked of them too. */
export function latticesOf(
  order: readonly Term[],
  results: readonly Term[],
  terms: Terms,
  { width, rows }: TableSize,
): Table[] {
  const counts = new Map<Term, number>();
  for (const term of order) {
    const count = term.rate === RATES.frame ? undefined : cellsOf(term);
    if (count !== undefined) counts.set(term, count);
  }
  if (counts.size < 2) return [];
  const places = hangingOn(order, new Set(counts.keys()), (term) => term.op === 'input');
  const isCell = (term: Term): boolean =>
    term.rate === RATES.pixel && !counts.has(term) && places.get(term)?.size === 2;
  const wanted = new Map<string, Set<Term>>();
  for (const term of [...order.filter((t) => !isCell(t)).flatMap((t) => t.args), ...results].filter(isCell)) {
    const key = [...places.get(term)!]
      .map(({ id }) => id)
      .sort((a, b) => a - b)
      .join();
    wanted.set(key, (wanted.get(key) ?? new Set()).add(term));
  }
  return [...wanted.values()].flatMap((set) => {
    const values = [...set];
    const [i, j] = [...places.get(values[0]!)!].sort((a, b) => a.id - b.id) as [Term, Term];
    const size = [counts.get(i)!, counts.get(j)!] as const;
    const inside = costOfAll(latticeTerms(values, [i, j]));
    const filling = (inside * inFours(size[0]) * size[1]) / (width * rows);
    if (filling + PLACES + ADDRESSES + GROUP * groupsOf(values) >= inside * WORTH) return [];
    const address = terms.address([i, j], inFours(size[0]), groupsOf(values) * 16);
    const table: Table = { indices: [i, j], counts: size, address, values, lines: undefined };
    return tableBytes(table) > MOST_BYTES ? [] : [table];
  });
}

/** The terms that make values from the numbers of a cell. */
export const latticeTerms = (values: readonly Term[], indices: Table['indices']): Term[] =>
  postorder(values, (term) => isLeaf(term) || indices.includes(term) || term.rate === RATES.frame);
