/** Half-open range of UTF-16 offsets into the material's text. */
export interface Span {
  readonly from: number;
  readonly to: number;
}

/** Replaces the text in [from, to) by `insert`. */
export interface TextEdit extends Span {
  readonly insert: string;
}

/** An edit that would cure a diagnostic, with words for its button. */
export interface Fix {
  readonly title: string;
  readonly edits: readonly TextEdit[];
}

export type Severity = 'error' | 'warning' | 'note';

/** Something found in a material: where, how grave, in plain words, and what would cure it. */
export interface Diagnostic extends Span {
  readonly code: string;
  readonly severity: Severity;
  readonly message: string;
  readonly fixes: readonly Fix[];
}

/** A diagnostic without its place: what `wording.ts` writes and a pass puts at a span. */
export interface Message {
  readonly code: string;
  readonly severity: Severity;
  readonly message: string;
}

/** In text order; of equal ones at the same place the first. */
export function inTextOrder<D extends Diagnostic>(list: readonly D[]): D[] {
  const once = new Map<string, D>();
  for (const d of list) {
    const key = `${d.code}:${String(d.from)}:${String(d.to)}`;
    if (!once.has(key)) once.set(key, d);
  }
  return [...once.values()].sort((a, b) => a.from - b.from || a.to - b.to);
}

/** Collects diagnostics of one run; equal ones at the same place are kept once. */
export class Diagnostics {
  readonly #list: Diagnostic[] = [];

  add(message: Message, { from, to }: Span, fixes: readonly Fix[] = []): void {
    this.#list.push({ ...message, from, to, fixes });
  }

  /** All that was found, in text order. */
  all(): Diagnostic[] {
    return inTextOrder(this.#list);
  }
}

/** Where the lines of the text that was asked about last begin. */
let lines: { readonly text: string; readonly starts: readonly number[] } = { text: '', starts: [0] };

function startsOf(text: string): readonly number[] {
  if (lines.text !== text) {
    const starts = [0];
    for (let at = text.indexOf('\n'); at >= 0; at = text.indexOf('\n', at + 1)) starts.push(at + 1);
    lines = { text, starts };
  }
  return lines.starts;
}

/** One-based line and column of an offset, for printing. */
export function lineAndColumn(text: string, offset: number): { line: number; column: number } {
  const starts = startsOf(text);
  let [low, high] = [0, starts.length];
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (starts[middle]! <= offset) low = middle;
    else high = middle;
  }
  return { line: low + 1, column: offset - starts[low]! + 1 };
}
