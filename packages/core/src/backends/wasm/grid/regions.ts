import { CROSSING } from './costs.ts';
import type { Term } from './terms.ts';

/**
 * Pass 6: the terms of a pixel are cut into regions, a loop each, so that what is alive at once fits into the processor's
 * registers: one loop of a thousand values is slower than the calls it replaced. The cuts are those where the fewest values
 * cross, found by dynamic programming over the order.
 */

/** Instructions that a region may have at most. */
const MOST = 220;

/** How a pixel has terms. */
export interface Reading {
  readonly argsOf: (term: Term) => readonly Term[];
  /** What comes at once has the same; undefined where something comes by itself. */
  readonly keyOf: (term: Term) => unknown;
  /** In instructions of four pixels. */
  readonly costOf: (term: Term) => number;
}

/**
 * Cuts an order of terms, operands first, into regions of at most `most` instructions. Neighbours of one key come at once: the
 * first of them takes what they take, and no cut parts them.
 */
export function regionsOf(order: readonly Term[], { costOf, keyOf, argsOf }: Reading, most = MOST): Term[][] {
  const count = order.length;
  if (count === 0) return [];
  const isTied = order.map((term, i) => i > 0 && keyOf(term) !== undefined && keyOf(term) === keyOf(order[i - 1]!));
  const crossing = crossingOf(order, argsOf);
  const sums = new Float64Array(count + 1);
  order.forEach((term, i) => (sums[i + 1] = sums[i]! + (isTied[i] ? 0 : Math.min(costOf(term), most))));
  const best = new Float64Array(count + 1).fill(Infinity);
  const from = new Int32Array(count + 1);
  best[0] = 0;
  for (let end = 1; end <= count; end++) {
    if (isTied[end]) continue;
    // A value that crosses is stored once and loaded once.
    const toEnd = end < count ? CROSSING * crossing[end]! : 0;
    let isOne = true;
    for (let start = end - 1; start >= 0; start--) {
      if (isTied[start]) continue;
      if (sums[end]! - sums[start]! > most && !isOne) break;
      isOne = false;
      const total = best[start]! + CROSSING + toEnd;
      if (total < best[end]!) [best[end], from[end]] = [total, start];
    }
  }
  const regions: Term[][] = [];
  for (let end = count; end > 0; end = from[end]!) regions.unshift(order.slice(from[end], end));
  return regions;
}

/** How many values made before a place of the order are used at it or after. */
function crossingOf(order: readonly Term[], argsOf: Reading['argsOf']): Float64Array {
  const places = new Map(order.map((term, i) => [term, i]));
  const last = new Map<Term, number>();
  order.forEach((term, i) => {
    for (const arg of argsOf(term)) if (places.has(arg)) last.set(arg, i);
  });
  const changes = new Float64Array(order.length + 2);
  for (const [term, until] of last) {
    changes[places.get(term)! + 1]!++;
    changes[until + 1]!--;
  }
  let sum = 0;
  return changes.map((change) => (sum += change));
}
