import type { Program, Step } from '../../check/program.ts';

/** The notes above and behind a step's line in the text, then the step itself, without its line ends. */
export function commentsOf({ tree: { text, tokens, statements } }: Program): (step: Step) => string[] {
  const notes = tokens.filter((t) => t.kind === 'comment');
  /** The last of a list in text order that fits, by halving; -1 where none does. */
  const last = <T>(list: readonly T[], fits: (item: T) => boolean): number => {
    let [low, high] = [0, list.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (fits(list[middle]!)) low = middle + 1;
      else high = middle;
    }
    return low - 1;
  };
  return ({ span }) => {
    const before = statements[last(statements, (s) => s.to <= span.from)];
    // What stands behind the statement before, on its line, is its own.
    const from = before ? Math.max(before.to, text.indexOf('\n', before.to)) : 0;
    const end = text.indexOf('\n', span.to);
    const until = last(notes, (t) => t.to <= (end < 0 ? text.length : end)) + 1;
    const own = notes.slice(last(notes, (t) => t.from < from) + 1, until).map((t) => t.text.slice(2).trim());
    const line = text
      .slice(span.from, span.to)
      .replace(/\/\/[^\n]*/g, '')
      .replace(/\s+/g, ' ')
      .trim();
    return [...own.filter((note) => note !== ''), line];
  };
}
