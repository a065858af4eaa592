import { costOf, KEPT_PLANE } from './costs.ts';
import { isLeaf } from './places.ts';
import { RATES, type Term } from './terms.ts';

/**
 * Pass 5: what hangs on the place and on dials, but not on the moment, is the same in each frame of a bake. Where it takes more
 * to compute than to read again, it is kept from frame to frame, a plane a value.
 */

/**
 * The values that are kept: terms of pixels that do not move and that moving ones ask for, each of which saves more than it takes
 * over so many frames. `order` has operands first; `argsOf` tells what a term is computed from.
 */
export function stillsOf(
  order: readonly Term[],
  results: readonly Term[],
  argsOf: (term: Term) => readonly Term[],
  isLookedUp: (term: Term) => boolean,
  frames: number,
): Set<Term> {
  const isStill = (term: Term): boolean => !term.moves && term.rate === RATES.pixel && !isLeaf(term);
  const kept = new Set<Term>();
  const mayBe = (term: Term): boolean => isStill(term) && !isLookedUp(term) && term.op !== 'sample';
  for (const term of order) if (!isStill(term)) for (const arg of argsOf(term)) if (mayBe(arg)) kept.add(arg);
  for (const result of results) if (mayBe(result)) kept.add(result);
  // What is computed in each frame all the same.
  const needed = new Set<Term>();
  const reach = (from: Term, into: Set<Term>): void => {
    const stack = [from];
    for (let term = stack.pop(); term; term = stack.pop()) {
      if (into.has(term) || needed.has(term) || !isStill(term)) continue;
      if (term !== from && kept.has(term)) continue;
      into.add(term);
      stack.push(...argsOf(term));
    }
  };
  for (const term of order) if (!isStill(term)) for (const arg of argsOf(term)) if (!kept.has(arg)) reach(arg, needed);
  for (const result of results) if (!kept.has(result)) reach(result, needed);
  // One that saves too little is computed anew, and with it what only it hid: then others may save less.
  for (let isChanged = true; isChanged;) {
    isChanged = false;
    for (const term of [...kept]) {
      const own = new Set<Term>();
      reach(term, own);
      let saved = 0;
      for (const one of own) saved += isLookedUp(one) ? KEPT_PLANE / 2 : costOf(one);
      if (saved * (1 - 1 / frames) > KEPT_PLANE) continue;
      kept.delete(term);
      for (const one of own) needed.add(one);
      isChanged = true;
    }
  }
  return kept;
}
