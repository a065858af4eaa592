import type { Term } from './terms.ts';

/**
 * Pass 3: the terms of a pixel are cut into regions, a loop each, so that what is alive at once fits into the processor's
 * registers: one loop of a thousand values is slower than the calls it replaced. The cuts are those where the fewest values
 * cross, found by dynamic programming over the order.
 */

/** Instructions that a region may have at most. */
const MOST = 220;

/** What a term takes, in instructions. */
const costOf = ({ op }: Term): number => {
  switch (op) {
    case 'lane':
    case 'bitcast':
      return 0;
    case 'sample':
      return 60;
    case 'mix':
    case 'fract':
    case 'clamp':
    case 'mod':
      return 3;
    default:
      return 1;
  }
};

/** Cuts an order of terms, operands first, into regions of at most `most` instructions. */
export function regionsOf(order: readonly Term[], most = MOST): Term[][] {
  const count = order.length;
  if (count === 0) return [];
  const crossing = crossingOf(order);
  const sums = new Float64Array(count + 1);
  // An image and its lanes stay together, however small regions are.
  order.forEach((term, i) => (sums[i + 1] = sums[i]! + Math.min(costOf(term), most)));
  const best = new Float64Array(count + 1).fill(Infinity);
  const from = new Int32Array(count + 1);
  best[0] = 0;
  for (let end = 1; end <= count; end++) {
    // A value that crosses is stored once and loaded once.
    const toEnd = end < count ? 2 * crossing[end]! : 0;
    for (let start = end - 1; start >= 0; start--) {
      if (sums[end]! - sums[start]! > most && start < end - 1) break;
      const total = best[start]! + 2 + toEnd;
      if (total < best[end]!) [best[end], from[end]] = [total, start];
    }
  }
  const regions: Term[][] = [];
  for (let end = count; end > 0; end = from[end]!) regions.unshift(order.slice(from[end], end));
  return regions;
}

/** How many values made before a place of the order are used after it; none may be cut off from an image it is read of. */
function crossingOf(order: readonly Term[]): Float64Array {
  const places = new Map(order.map((term, i) => [term, i]));
  const last = new Map<Term, number>();
  order.forEach((term, i) => {
    for (const arg of term.args) if (places.has(arg)) last.set(arg, i);
  });
  const changes = new Float64Array(order.length + 2);
  for (const [term, until] of last) {
    if (term.op === 'sample') continue;
    changes[places.get(term)! + 1]!++;
    changes[until + 1]!--;
  }
  const alive = new Float64Array(order.length + 1);
  let sum = 0;
  for (let i = 0; i <= order.length; i++) {
    sum += changes[i]!;
    alive[i] = order[i]?.op === 'lane' ? 1e9 : sum;
  }
  return alive;
}
