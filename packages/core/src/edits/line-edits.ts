import type { Span, TextEdit } from '../diagnostics/diagnostic.ts';
import { setOff } from './edits.ts';
import type { Statement, SyntaxTree } from '../lang/tree.ts';

const HEAD: readonly Statement['kind'][] = ['material', 'loop', 'surface', 'dial', 'switch', 'image', 'ramp'];

/** Edits that put something into a text. */
export interface Insertion {
  readonly edits: TextEdit[];
  /** Line of the step it went into, counted among the steps afterwards. */
  readonly step: number;
}

/** The whole lines a span stands on, without the last line's end. */
export function linesOf(text: string, { from, to }: Span): Span {
  const end = text.indexOf('\n', to);
  return { from: text.lastIndexOf('\n', from - 1) + 1, to: end === -1 ? text.length : end };
}

/** Takes whole lines out, with one line end. */
export function removeLines(text: string, span: Span): TextEdit[] {
  const { from, to } = linesOf(text, span);
  if (to < text.length) return [{ from, to: to + 1, insert: '' }];
  return [{ from: Math.max(0, from - 1), to, insert: '' }];
}

/** Puts a line below the line that `at` stands on. */
export function insertBelow(text: string, at: number, line: string): TextEdit[] {
  const { to } = linesOf(text, { from: at, to: at });
  return [{ from: to, to, insert: `\n${line}` }];
}

/** Puts a declaration below the last of its kind, else below the other declarations, else first. */
export function insertDeclaration(tree: SyntaxTree, kinds: readonly Statement['kind'][], line: string): TextEdit[] {
  const before =
    tree.statements.findLast((s) => kinds.includes(s.kind)) ?? tree.statements.findLast((s) => HEAD.includes(s.kind));
  if (!before) return [{ from: 0, to: 0, insert: `${line}\n` }];
  return insertBelow(tree.text, before.to, line);
}

/**
 * Puts a step's line below the statement at `at`; above the first output where that is nearer, below the declarations
 * where there is no step yet.
 */
export function insertStep(tree: SyntaxTree, at: number | undefined, line: string): TextEdit[] {
  const { statements, text } = tree;
  const isLine = (s: Statement): boolean => s.kind === 'step' || s.kind === 'out';
  const here = at === undefined ? undefined : statements.findLast((s) => s.from <= at);
  const firstOut = statements.find((s) => s.kind === 'out');
  const isOut = /^out\b/.test(line);
  if (here?.kind === 'step') return insertBelow(text, here.to, line);
  if (firstOut && !isOut) return insertAbove(text, firstOut.from, line);
  const lastLine = statements.findLast(isLine);
  if (lastLine) return insertBelow(text, lastLine.to, lastLine.kind === 'step' && isOut ? `\n${line}` : line);
  const head = statements.findLast((s) => HEAD.includes(s.kind) || s.kind === 'op');
  return head ? insertBelow(text, head.to, `\n${line}`) : [{ from: 0, to: 0, insert: `${line}\n` }];
}

function insertAbove(text: string, at: number, line: string): TextEdit[] {
  let { from } = linesOf(text, { from: at, to: at });
  // Above the blank line that parts outputs from steps.
  if (from >= 2 && text[from - 1] === '\n' && text[from - 2] === '\n') from -= 1;
  return [{ from, to: from, insert: `${line}\n` }];
}

/** Switches every step below the line that starts at `from` off, or on again, that line with them; outputs stay. */
export function setOffBelow(tree: SyntaxTree, from: number, off: boolean): TextEdit[] {
  return tree.statements.filter((s) => s.kind === 'step' && s.from >= from).flatMap((s) => setOff(tree, s.from, off));
}

/** Lets two lines change places. */
export function swapLines(text: string, a: Span, b: Span): TextEdit[] {
  const [first, second] = [linesOf(text, a), linesOf(text, b)];
  return [
    { ...first, insert: text.slice(second.from, second.to) },
    { ...second, insert: text.slice(first.from, first.to) },
  ];
}
