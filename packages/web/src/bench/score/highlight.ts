import type { Token } from '@estela/core';
import type { Range, TransactionSpec } from '@codemirror/state';
import { Decoration } from '@codemirror/view';
import type { Derived } from '../../material/look.ts';
import { decorationsField } from './decorations.ts';

const { field, set: setDecorations } = decorationsField();

/** Holds the marks made from the last tree; they move with the text until the next one. */
export const highlight = field;

const MARKS = {
  word: 'cm-word',
  moves: 'cm-moves',
  number: 'cm-number',
  movingNumber: 'cm-number cm-moves',
  text: 'cm-text',
  note: 'cm-note',
  off: 'cm-off',
} as const;
const marks = Object.fromEntries(
  Object.entries(MARKS).map(([name, of]) => [name, Decoration.mark({ class: of })]),
) as Record<keyof typeof MARKS, Decoration>;

const RATE_UNITS = new Set(['lap', 'laps', '/s']);
/** Words that are part of a statement's form where they stand in one of its kind. */
const FORM_WORDS: Record<string, ReadonlySet<string>> = {
  loop: new Set(['at']),
  dial: new Set(['in', 'by', 'laps', 'rate', 'number', 'time', 'angle', 'vec2', 'color']),
  image: new Set(['repeat', 'mirror', 'clamp', 'linear', 'nearest', 'color', 'data', 'normal']),
  ramp: new Set(['linear', 'smooth', 'stepped']),
  op: new Set(['return']),
};

/** The ink of each token, from the core's own tree: what moves with time is amber. */
export function showTree({ program, text }: Derived): TransactionSpec {
  const { tokens, statements } = program.tree;
  const moving = new Set(program.dials.filter((d) => d.type === 'laps' || d.type === 'rate').map((d) => d.name));
  const ranges: Range<Decoration>[] = [];
  let statement = 0;
  const mark = (token: Token, name: keyof typeof MARKS): void => {
    ranges.push(marks[name].range(token.from, token.to));
  };
  tokens.forEach((token, i) => {
    while (statement < statements.length - 1 && (statements[statement + 1]?.from ?? Infinity) <= token.from)
      statement++;
    const of = statements[statement];
    const first = of?.from === token.from;
    switch (token.kind) {
      case 'comment':
        mark(token, 'note');
        break;
      case 'string':
        mark(token, 'text');
        break;
      case 'number':
        mark(token, token.unit && RATE_UNITS.has(token.unit) ? 'movingNumber' : 'number');
        break;
      case 'color':
        mark(token, 'number');
        break;
      case 'name': {
        const before = tokens[i - 1];
        if (first && of.kind !== 'bad' && (of.kind !== 'step' || token.text === 'off')) mark(token, 'word');
        else if (
          of &&
          FORM_WORDS[of.kind]?.has(token.text) &&
          before?.text !== '=' &&
          !(of.kind === 'dial' && before?.text === 'dial')
        )
          mark(token, 'word');
        else if (of?.kind === 'surface' || token.text === 'on' || token.text === 'off' || token.text === 'out')
          mark(token, token.text === 'out' || token.text === 'off' ? 'word' : 'text');
        else if (moving.has(token.text) || token.text === 'time' || token.text === 'phase') mark(token, 'moves');
        break;
      }
      case 'symbol':
        if (token.text === '|>') mark(token, 'word');
        break;
      default:
    }
  });
  for (const step of program.steps) if (step.off) ranges.push(marks.off.range(step.span.from, step.span.to));
  return {
    effects: setDecorations.of(
      Decoration.set(
        ranges.filter((r) => r.to <= text.length),
        true,
      ),
    ),
  };
}
