import { Diagnostics } from '../diagnostics/diagnostic.ts';
import { say } from '../diagnostics/wording.ts';
import { Cursor } from './cursor.ts';
import { parseStatement } from './parse-statement.ts';
import { tokenize } from './tokens.ts';
import type { Statement, SyntaxTree } from './tree.ts';

/** Longest text that is read, in UTF-16 units. */
export const TEXT_LIMIT = 200_000;

/**
 * Reads a Wake text. Never throws: what cannot be read is reported, once a statement, and the
 * next line is read as if nothing had happened.
 */
export function parse(text: string): SyntaxTree {
  const diagnostics = new Diagnostics();
  if (text.length > TEXT_LIMIT) {
    diagnostics.add(say.tooLong(TEXT_LIMIT), { from: 0, to: text.length });
    return { text, statements: [], tokens: [], diagnostics: diagnostics.all() };
  }
  const tokens = tokenize(text);
  const cursor = new Cursor(tokens, diagnostics);
  const statements: Statement[] = [];
  while (cursor.toStatement()) statements.push(parseStatement(cursor));
  return { text, statements, tokens, diagnostics: diagnostics.all() };
}
