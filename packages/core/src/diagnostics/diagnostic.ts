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

/** One-based line and column of an offset, for printing. */
export function lineAndColumn(text: string, offset: number): { line: number; column: number } {
  const before = text.slice(0, offset);
  const start = before.lastIndexOf('\n') + 1;
  let line = 1;
  for (let i = before.indexOf('\n'); i !== -1; i = before.indexOf('\n', i + 1)) line++;
  return { line, column: offset - start + 1 };
}
