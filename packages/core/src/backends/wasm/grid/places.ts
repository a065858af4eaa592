import { RATES, type Term } from './terms.ts';

/**
 * Pass 2: each term is computed as seldom as it may be: once a frame, a column, a row or a pixel. What is asked for more often
 * than it is computed is kept in memory.
 */

/** Has no instructions of its own. */
export const isLeaf = ({ op }: Term): boolean => op === 'constant' || op === 'frame' || op === 'input';

export interface Placement {
  /** All terms that are needed, operands first. */
  readonly order: readonly Term[];
  /** Those that are kept for terms of another rate, or are results themselves: no leaves, none of a pixel. */
  readonly kept: ReadonlySet<Term>;
}

/** `isHoisted` false computes everything for each pixel. */
export function placementOf(results: readonly Term[], rateOf: (term: Term) => number): Placement {
  const order = postorder(results);
  const kept = new Set<Term>();
  for (const term of order)
    if (!isLeaf(term)) for (const arg of term.args) if (!isLeaf(arg) && rateOf(arg) < rateOf(term)) kept.add(arg);
  for (const term of results) if (!isLeaf(term) && rateOf(term) < RATES.pixel) kept.add(term);
  return { order, kept };
}

/** Terms below some, each once, operands first; those that `isEnd` says are not gone into, and left out. */
export function postorder(roots: readonly Term[], isEnd: (term: Term) => boolean = () => false): Term[] {
  const order: Term[] = [];
  const done = new Set<Term>();
  const stack: [Term, number][] = [...roots].reverse().map((root) => [root, 0]);
  for (let top = stack.at(-1); top; top = stack.at(-1)) {
    const [term, next] = top;
    if (done.has(term) || isEnd(term)) {
      stack.pop();
      continue;
    }
    const arg = term.args[next];
    if (arg === undefined) {
      done.add(term);
      order.push(term);
      stack.pop();
    } else {
      top[1]++;
      if (!done.has(arg)) stack.push([arg, 0]);
    }
  }
  return order;
}
