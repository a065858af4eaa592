import type { TextEdit } from '../diagnostics/diagnostic.ts';
import type { SyntaxTree } from './tree.ts';

/** The text after edits; they must not overlap, and are all counted in the text as it was. */
export function applyEdits(text: string, edits: readonly TextEdit[]): string {
  let result = text;
  for (const edit of [...edits].sort((a, b) => b.from - a.from || b.to - a.to)) result = result.slice(0, edit.from) + edit.insert + result.slice(edit.to);
  return result;
}

const quoted = (words: string): string => `"${words.replace(/["\n\r]/g, ' ').trim()}"`;

/** Gives the material a title; a text without one gets a first line. */
export function setTitle(tree: SyntaxTree, title: string): TextEdit[] {
  const line = tree.statements.find((s) => s.kind === 'material');
  if (line?.kind === 'material') return [{ from: line.titleSpan.from, to: line.titleSpan.to, insert: quoted(title) }];
  return [{ from: 0, to: 0, insert: `material ${quoted(title)}\n` }];
}

/** Writes a dial's default, or a switch's, as given. */
export function setDefault(tree: SyntaxTree, name: string, literal: string): TextEdit[] {
  const line = tree.statements.find((s) => (s.kind === 'dial' || s.kind === 'switch') && s.name.name === name);
  if (line?.kind !== 'dial' && line?.kind !== 'switch') return [];
  const { from, to } = line.value;
  return tree.text.slice(from, to) === literal ? [] : [{ from, to, insert: from === to ? ` ${literal}` : literal }];
}

/** The title of a material, or undefined where it has none. */
export function titleOf(tree: SyntaxTree): string | undefined {
  const line = tree.statements.find((s) => s.kind === 'material');
  return line?.kind === 'material' ? line.title : undefined;
}
