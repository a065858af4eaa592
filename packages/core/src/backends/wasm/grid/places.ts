import { RATES, type Rate, type Term } from './terms.ts';

/**
 * Pass 2: each term is computed as seldom as it may be: once a frame, a column, a row or a pixel. What is asked for more often
 * than it is computed is kept in memory.
 */

/** Has no instructions of its own. */
export const isLeaf = ({ op }: Term): boolean => op === 'constant' || op === 'frame' || op === 'input' || op === 'size';

const own = (term: Term): readonly Term[] => term.args;

/** Terms below some, each once, operands first; those that `isEnd` says are not gone into, and left out. */
export function postorder(
  roots: readonly Term[],
  isEnd: (term: Term) => boolean = () => false,
  argsOf: (term: Term) => readonly Term[] = own,
): Term[] {
  const order: Term[] = [];
  const done = new Set<Term>();
  const stack: [Term, number, readonly Term[]][] = [...roots].reverse().map((root) => [root, 0, argsOf(root)]);
  for (let top = stack.at(-1); top; top = stack.at(-1)) {
    const [term, next, args] = top;
    if (done.has(term) || isEnd(term)) {
      stack.pop();
      continue;
    }
    const arg = args[next];
    if (arg === undefined) {
      done.add(term);
      order.push(term);
      stack.pop();
    } else {
      top[1]++;
      if (!done.has(arg)) stack.push([arg, 0, argsOf(arg)]);
    }
  }
  return order;
}

/** A piece of code. */
export interface Piece {
  /** The terms that it computes, operands first. */
  readonly order: readonly Term[];
  /** What it computes a term from, where that is not how it is defined. */
  readonly argsOf?: (term: Term) => readonly Term[];
  /** What it asks for beside what those are computed from. */
  readonly goals?: readonly Term[];
  /** What it has from elsewhere. */
  readonly given?: readonly Term[];
}

/** What pieces ask for that is computed more seldom than they are: it is kept, and so is what that asks for. */
export function keptOf(pieces: readonly Piece[]): Set<Term> {
  const kept = new Set<Term>();
  const ask = ({ order, argsOf = own, goals = [], given = [] }: Piece, rate: Rate): void => {
    const known = new Set([...order, ...given]);
    for (const term of [...order.flatMap(argsOf), ...goals])
      if (!known.has(term) && !isLeaf(term) && term.rate !== rate && term.rate !== RATES.pixel) kept.add(term);
  };
  for (const piece of pieces) ask(piece, RATES.pixel);
  for (const rate of [RATES.column, RATES.row] as const) ask({ order: termsAt([...kept], rate) }, rate);
  return kept;
}

/** The terms of a rate from which some of that rate are made, operands first. */
export const termsAt = (goals: readonly Term[], rate: Rate): Term[] =>
  postorder(
    goals.filter((term) => term.rate === rate),
    (term) => isLeaf(term) || term.rate !== rate,
  );

/** What comes at once stands together: an image that is read and its lanes, or what else has the same key. */
export function together(order: readonly Term[], keyOf: (term: Term) => unknown = ofImage): Term[] {
  const groups = new Map<unknown, Term[]>();
  for (const term of order) {
    const key = keyOf(term);
    const known = groups.get(key);
    if (key === undefined || !known) groups.set(key ?? term, [term]);
    else known.push(term);
  }
  return [...groups.values()].flat();
}

/** The image that a term reads, or is a lane of. */
export const ofImage = (term: Term): Term | undefined =>
  term.op === 'sample' ? term : term.op === 'lane' ? term.args[0] : undefined;
