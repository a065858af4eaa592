import type { TextEdit } from '../diagnostics/diagnostic.ts';
import type { RampStatement, SyntaxTree } from '../lang/tree.ts';

/** A stop as written: its place 0..1, and its colour as #rgb, #rrggbb or #rrggbbaa. */
export interface WrittenStop {
  readonly at: number;
  readonly hex: string;
}
export const RAMP_EASINGS = ['linear', 'smooth', 'stepped'] as const;
export type RampEasing = (typeof RAMP_EASINGS)[number];

const statementOf = (tree: SyntaxTree, name: string): RampStatement | undefined =>
  tree.statements.find((s): s is RampStatement => s.kind === 'ramp' && s.name.name === name);

/** What stands on the line of a ramp; undefined where there is no such ramp. */
export function writtenRamp(
  tree: SyntaxTree,
  name: string,
): { readonly stops: readonly WrittenStop[]; readonly easing: RampEasing } | undefined {
  const line = statementOf(tree, name);
  return (
    line && {
      stops: line.stops.map((s) => ({ at: s.at.unit === '%' ? s.at.value / 100 : s.at.value, hex: s.color.hex })),
      easing: RAMP_EASINGS.find((e) => e === line.word?.name) ?? 'linear',
    }
  );
}

const percent = (at: number): string => `${String(Math.round(Math.min(Math.max(at, 0), 1) * 10000) / 100)}%`;

/** Everything behind a ramp's name; stops are put in order of their places. */
export function rampText(stops: readonly WrittenStop[], easing: RampEasing): string {
  const ordered = [...stops].sort((a, b) => a.at - b.at).map((s) => `${percent(s.at)} ${s.hex}`);
  return `${ordered.join(', ')}${easing === 'linear' ? '' : ` ${easing}`}`;
}

/** Writes a ramp anew; its name, what stands before `=` and a comment behind stay. */
export function setRamp(tree: SyntaxTree, name: string, stops: readonly WrittenStop[], easing: RampEasing): TextEdit[] {
  const line = statementOf(tree, name);
  if (!line) return [];
  const [first] = line.stops;
  const insert = rampText(stops, easing);
  const edit = first
    ? { from: first.from, to: line.to, insert }
    : { from: line.name.to, to: line.to, insert: ` = ${insert}` };
  return tree.text.slice(edit.from, edit.to) === insert ? [] : [edit];
}

/** A new ramp's line, put behind the last ramp, else behind the other declarations at the head of the text. */
export function addRamp(tree: SyntaxTree, name: string, stops: readonly WrittenStop[], easing: RampEasing): TextEdit[] {
  const head = ['material', 'loop', 'surface', 'dial', 'switch', 'image', 'ramp'];
  const before =
    tree.statements.findLast((s) => s.kind === 'ramp') ?? tree.statements.findLast((s) => head.includes(s.kind));
  const end = before ? tree.text.indexOf('\n', before.to) : 0;
  const at = end === -1 ? tree.text.length : before ? end : 0;
  const line = `ramp ${name} = ${rampText(stops, easing)}`;
  return [{ from: at, to: at, insert: before ? `\n${line}` : `${line}\n` }];
}

/** The same colours at even distances, from 0 to 1. */
export const spreadEvenly = (stops: readonly WrittenStop[]): WrittenStop[] =>
  stops.map((s, i) => ({ ...s, at: stops.length > 1 ? i / (stops.length - 1) : 0 }));

/** The ramp from its other end. */
export const reverseStops = (stops: readonly WrittenStop[]): WrittenStop[] =>
  [...stops].reverse().map((s) => ({ ...s, at: 1 - s.at }));
