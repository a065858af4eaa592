import type { TextEdit } from '../diagnostics/diagnostic.ts';
import type { SyntaxTree } from '../lang/tree.ts';

/**
 * The text after edits; they must not overlap, and are all counted in the text as it was. At one place they stand in
 * the order given.
 */
export function applyEdits(text: string, edits: readonly TextEdit[]): string {
  let result = '';
  let at = 0;
  for (const edit of [...edits].sort((a, b) => a.from - b.from || a.to - b.to)) {
    result += text.slice(at, edit.from) + edit.insert;
    at = edit.to;
  }
  return result + text.slice(at);
}

const quoted = (words: string): string => `"${words.replace(/["\n\r]/g, ' ').trim()}"`;

/** Gives the material a title; a text without one gets a first line. */
export function setTitle(tree: SyntaxTree, title: string): TextEdit[] {
  const line = tree.statements.find((s) => s.kind === 'material');
  if (line?.kind === 'material') return [{ from: line.titleSpan.from, to: line.titleSpan.to, insert: quoted(title) }];
  return [{ from: 0, to: 0, insert: `material ${quoted(title)}\n` }];
}

/** Writes the loop's length in seconds and its frame rate; a text without a loop line gets one below its title. */
export function setLoop(tree: SyntaxTree, seconds: number, fps: number): TextEdit[] {
  const written = `loop ${String(Number(seconds.toPrecision(9)))}s at ${String(Number(fps.toPrecision(9)))}fps`;
  const line = tree.statements.find((s) => s.kind === 'loop');
  if (line)
    return tree.text.slice(line.from, line.to) === written ? [] : [{ from: line.from, to: line.to, insert: written }];
  const title = tree.statements.find((s) => s.kind === 'material');
  return title
    ? [{ from: title.to, to: title.to, insert: `\n${written}` }]
    : [{ from: 0, to: 0, insert: `${written}\n` }];
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

/** Switches the step or output whose line starts at `from` off, or on again. */
export function setOff(tree: SyntaxTree, from: number, off: boolean): TextEdit[] {
  const line = tree.statements.find((s) => (s.kind === 'step' || s.kind === 'out') && s.from === from);
  if ((line?.kind !== 'step' && line?.kind !== 'out') || (line.off !== undefined) === off) return [];
  if (off) return [{ from, to: from, insert: 'off ' }];
  const start = line.off?.to ?? from;
  const space = /^\s*/.exec(tree.text.slice(start))?.[0].length ?? 0;
  return [{ from, to: start + space, insert: '' }];
}
