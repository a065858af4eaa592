import type { TextEdit } from '../diagnostics/diagnostic.ts';
import { insertBelow, linesOf, removeLines, swapLines } from './line-edits.ts';
import type {
  DialStatement,
  Expression,
  NameExpression,
  SwitchStatement,
  SyntaxTree,
  VariantStatement,
} from '../lang/tree.ts';
import { everyExpression, expressionsOfStatement } from '../lang/walk.ts';

type Exposed = DialStatement | SwitchStatement;
const exposedOf = (tree: SyntaxTree): Exposed[] =>
  tree.statements.filter((s): s is Exposed => s.kind === 'dial' || s.kind === 'switch');
const exposed = (tree: SyntaxTree, name: string): Exposed | undefined =>
  exposedOf(tree).find((s) => s.name.name === name);
const variantsOf = (tree: SyntaxTree): VariantStatement[] => tree.statements.filter((s) => s.kind === 'variant');
const dialNamed = (tree: SyntaxTree, name: string): DialStatement | undefined => {
  const line = exposed(tree, name);
  return line?.kind === 'dial' ? line : undefined;
};

export const isName = (name: string): boolean => /^[a-z_][a-z0-9_]*$/.test(name);

/** Where a name is used as a value: in steps, outputs and operations that have no parameter of that name. */
export function usesOf(tree: SyntaxTree, name: string): NameExpression[] {
  const roots = tree.statements.flatMap((s): readonly Expression[] => {
    if (s.kind === 'op') return s.parameters.some((p) => p.name.name === name) ? [] : expressionsOfStatement(s);
    return s.kind === 'step' || s.kind === 'out' ? [s.value] : [];
  });
  return [...everyExpression(roots)].filter((e): e is NameExpression => e.kind === 'name' && e.name === name);
}

/** Gives a dial, switch, image, ramp or step another name, everywhere it is bound and used. */
export function renameName(tree: SyntaxTree, from: string, to: string): TextEdit[] {
  const edits: TextEdit[] = usesOf(tree, from).map((e) => ({ from: e.from, to: e.to, insert: to }));
  for (const s of tree.statements) {
    if (
      (s.kind === 'dial' || s.kind === 'switch' || s.kind === 'image' || s.kind === 'ramp' || s.kind === 'step') &&
      s.name.name === from
    )
      edits.push({ from: s.name.from, to: s.name.to, insert: to });
    if (s.kind === 'variant')
      for (const { name } of s.entries)
        if (name.name === from) edits.push({ from: name.from, to: name.to, insert: to });
  }
  return edits;
}

/** Takes a dial or switch out; `literal` stands wherever it was used, and no variant names it any more. */
export function removeExposed(tree: SyntaxTree, name: string, literal: string): TextEdit[] {
  const line = exposed(tree, name);
  if (!line) return [];
  return [
    ...removeLines(tree.text, line),
    ...usesOf(tree, name).map((e) => ({ from: e.from, to: e.to, insert: literal })),
    ...variantsOf(tree).flatMap((v) => removeEntry(v, name)),
  ];
}

/** Moves a dial or switch one place up or down among the dials and switches. */
export function moveExposed(tree: SyntaxTree, name: string, by: 1 | -1): TextEdit[] {
  const list = exposedOf(tree);
  const index = list.findIndex((s) => s.name.name === name);
  const [line, other] = [list[index], list[index + by]];
  if (!line || !other) return [];
  return by > 0 ? swapLines(tree.text, line, other) : swapLines(tree.text, other, line);
}

/** Writes a dial's range, or takes it away. */
export function setRange(
  tree: SyntaxTree,
  name: string,
  range: readonly [low: string, high: string] | undefined,
): TextEdit[] {
  const line = dialNamed(tree, name);
  if (!line) return [];
  const insert = range ? ` in ${range[0]}..${range[1]}` : '';
  const to = line.high?.to ?? line.value.to;
  return tree.text.slice(line.value.to, to) === insert ? [] : [{ from: line.value.to, to, insert }];
}

/** Writes the words that explain a dial or switch. */
export function setHelp(tree: SyntaxTree, name: string, help: string): TextEdit[] {
  const line = exposed(tree, name);
  if (!line) return [];
  const words = help.replace(/["\r\n]/g, ' ').trim();
  const end = line.kind === 'dial' ? (line.by ?? line.high ?? line.value).to : line.value.to;
  return [{ from: end, to: line.to, insert: words === '' ? '' : ` "${words}"` }];
}

/**
 * Heading of the group each dial and switch stands in: the comment on a line of its own above it, until the next such
 * comment or a blank line.
 */
export function groupsOf(tree: SyntaxTree): ReadonlyMap<string, string> {
  const groups = new Map<string, string>();
  let group = '';
  let end = 0;
  for (const line of exposedOf(tree)) {
    const between = tree.text
      .slice(end, linesOf(tree.text, line).from)
      .split('\n')
      .slice(end === 0 ? 0 : 1);
    const above = between.at(-2)?.trim() ?? '';
    if (above.startsWith('//')) group = above.replace(/^\/+\s*/, '');
    else if (end === 0 || between.some((l, i) => l.trim() === '' && i < between.length - 1) || between.length > 1)
      group = '';
    groups.set(line.name.name, group);
    end = linesOf(tree.text, line).to;
  }
  return groups;
}

/**
 * Moves a dial or switch into a group; one that is not there yet is begun below the others, and an empty heading leaves
 * all groups.
 */
export function setGroup(tree: SyntaxTree, name: string, group: string): TextEdit[] {
  const line = exposed(tree, name);
  const groups = groupsOf(tree);
  if (!line || (groups.get(name) ?? '') === group) return [];
  const { text } = tree;
  const { from, to } = linesOf(text, line);
  const own = text.slice(from, to);
  const others = exposedOf(tree).filter((s) => s !== line);
  const members = others.filter((s) => groups.get(s.name.name) === group);
  const last = members.at(-1) ?? (group === '' ? undefined : others.at(-1));
  const removal = removeLines(text, line);
  if (!last) {
    if (group !== '') return [{ from, to: from, insert: `// ${group}\n` }];
    const first = others[0] ?? line;
    const heading = Math.min(linesOf(text, first).from, headingAbove(text, linesOf(text, first).from));
    return [...removal, { from: heading, to: heading, insert: `${own}\n\n` }];
  }
  return [...removal, ...insertBelow(text, last.to, members.length > 0 ? own : `\n// ${group}\n${own}`)];
}

/** Start of the comment line right above a line, else of the line. */
function headingAbove(text: string, start: number): number {
  const above = text.lastIndexOf('\n', start - 2) + 1;
  return start > 0 && text.slice(above, start).trim().startsWith('//') ? above : start;
}

const opening = (text: string, variant: VariantStatement): number => text.indexOf('{', variant.titleSpan.to) + 1;

function removeEntry({ entries }: VariantStatement, name: string): TextEdit[] {
  const index = entries.findIndex((e) => e.name.name === name);
  const entry = entries[index];
  if (!entry) return [];
  const [before, next] = [entries[index - 1], entries[index + 1]];
  if (before) return [{ from: before.to, to: entry.to, insert: '' }];
  return [{ from: entry.from, to: next?.from ?? entry.to, insert: '' }];
}

/** Writes a value of a variant; without one the default holds again. */
export function setVariantValue(
  tree: SyntaxTree,
  title: string,
  name: string,
  literal: string | undefined,
): TextEdit[] {
  const variant = variantsOf(tree).find((v) => v.title === title);
  if (!variant) return [];
  if (literal === undefined) return removeEntry(variant, name);
  const entry = variant.entries.find((e) => e.name.name === name);
  if (entry)
    return tree.text.slice(entry.value.from, entry.value.to) === literal
      ? []
      : [{ from: entry.value.from, to: entry.value.to, insert: literal }];
  const last = variant.entries.at(-1);
  if (!last) return [{ from: opening(tree.text, variant), to: variant.to - 1, insert: ` ${name} = ${literal} ` }];
  const lines = tree.text.slice(opening(tree.text, variant), variant.entries[0]?.from).includes('\n');
  return [{ from: last.to, to: last.to, insert: lines ? `\n  ${name} = ${literal}` : `, ${name} = ${literal}` }];
}

/** A new variant below the others, at the end of the text where there is none. */
export function addVariant(
  tree: SyntaxTree,
  title: string,
  values: readonly (readonly [name: string, literal: string])[],
): TextEdit[] {
  const line = `variant "${title.replace(/["\r\n]/g, ' ').trim()}" {${values.map(([n, v]) => ` ${n} = ${v}`).join(',')} }`;
  const last = variantsOf(tree).at(-1);
  if (last) return insertBelow(tree.text, last.to, line);
  const end = tree.text.trimEnd().length;
  return [{ from: end, to: tree.text.length, insert: `${end === 0 ? '' : '\n\n'}${line}\n` }];
}

export function renameVariant(tree: SyntaxTree, title: string, to: string): TextEdit[] {
  const variant = variantsOf(tree).find((v) => v.title === title);
  return variant
    ? [{ from: variant.titleSpan.from, to: variant.titleSpan.to, insert: `"${to.replace(/["\r\n]/g, ' ').trim()}"` }]
    : [];
}

export function removeVariant(tree: SyntaxTree, title: string): TextEdit[] {
  const variant = variantsOf(tree).find((v) => v.title === title);
  return variant ? removeLines(tree.text, variant) : [];
}
