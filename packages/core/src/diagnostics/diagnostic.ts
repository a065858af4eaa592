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
export interface Mend {
  readonly title: string;
  readonly edits: readonly TextEdit[];
}

export type Severity = 'error' | 'warning' | 'note';

/** Something found in a material: where, how grave, in plain words, and what would cure it. */
export interface Diagnostic extends Span {
  readonly code: string;
  readonly severity: Severity;
  readonly message: string;
  readonly mends: readonly Mend[];
}

/** A diagnostic without its place: what `wording.ts` writes and a pass puts at a span. */
export interface Finding {
  readonly code: string;
  readonly severity: Severity;
  readonly message: string;
}

/** Collects diagnostics of one run; equal ones at the same place are kept once. */
export class Diagnostics {
  readonly #list: Diagnostic[] = [];
  readonly #seen = new Set<string>();

  add(finding: Finding, span: Span, mends: readonly Mend[] = []): void {
    const key = `${finding.code}:${String(span.from)}:${String(span.to)}`;
    if (this.#seen.has(key)) return;
    this.#seen.add(key);
    this.#list.push({ ...finding, from: span.from, to: span.to, mends });
  }

  /** All that was found, in text order. */
  all(): Diagnostic[] {
    return [...this.#list].sort((a, b) => a.from - b.from || a.to - b.to);
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
