import type { TextEdit } from '../diagnostics/diagnostic.ts';
import type { Argument, CallExpression, Expression, PipeExpression } from '../lang/tree.ts';

/** Longest line that a new stage is still put on. */
const LINE_LENGTH = 64;

/** Switches a stage of a pipe off, or on again. */
export function setStageOff(text: string, stage: PipeExpression, off: boolean): TextEdit[] {
  if ((stage.off !== undefined) === off) return [];
  if (!stage.off) return [{ from: stage.call.from, to: stage.call.from, insert: 'off ' }];
  const space = /^\s*/.exec(text.slice(stage.off.to))?.[0].length ?? 0;
  return [{ from: stage.off.from, to: stage.off.to + space, insert: '' }];
}

/** Takes a stage out; a comment before it stays. */
export function removeStage(text: string, { left, stage }: PipeExpression): TextEdit[] {
  const between = text.slice(left.to, stage.from);
  return [{ from: /^\s*$/.test(between) ? left.to : stage.from, to: stage.to, insert: '' }];
}

/** Lets two stages of one pipe change places, each with its off mark. */
export function swapStages(text: string, a: PipeExpression, b: PipeExpression): TextEdit[] {
  return [
    { ...spanOf(a), insert: text.slice(b.stage.from, b.stage.to) },
    { ...spanOf(b), insert: text.slice(a.stage.from, a.stage.to) },
  ];
}
const spanOf = ({ stage: { from, to } }: PipeExpression): { from: number; to: number } => ({ from, to });

/**
 * Puts a stage behind `value`: on the same line while there is room, else on a line of its own, or as the stages around
 * it stand.
 */
export function insertStage(text: string, value: Expression, call: string): TextEdit[] {
  const at = value.to;
  const before = value.kind === 'pipe' ? text.slice(value.left.to, value.stage.from) : '';
  const start = text.lastIndexOf('\n', at - 1) + 1;
  const long = at - start + call.length + 4 > LINE_LENGTH;
  const column = text.slice(start, value.from).length;
  const space = /^\s*\n\s*$/.test(before) ? before : long ? `\n${' '.repeat(Math.min(column, 24))}` : ' ';
  return [{ from: at, to: at, insert: `${space}|> ${call}` }];
}

/** Writes an argument: in place of the one there is, else by name behind the others. */
export function setArgument(
  text: string,
  call: CallExpression,
  argument: Argument | undefined,
  name: string,
  value: string,
): TextEdit[] {
  if (argument) {
    const { from, to } = argument.value;
    return text.slice(from, to) === value ? [] : [{ from, to, insert: value }];
  }
  const last = call.args.at(-1);
  const at = last?.to ?? call.to - 1;
  return [{ from: at, to: at, insert: `${last ? ', ' : ''}${name}: ${value}` }];
}

/** Takes an argument out, so that its default holds; nothing where that would move later ones to other parameters. */
export function removeArgument(call: CallExpression, argument: Argument): TextEdit[] {
  const index = call.args.indexOf(argument);
  const next = call.args[index + 1];
  if (index < 0 || (!argument.name && next && !next.name)) return [];
  const before = call.args[index - 1];
  if (before) return [{ from: before.to, to: argument.to, insert: '' }];
  return [{ from: argument.from, to: next?.from ?? argument.to, insert: '' }];
}
