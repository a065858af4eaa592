import type { Typed } from '../check/program.ts';
import type { TextEdit } from '../diagnostics/diagnostic.ts';
import { LEVELS, PHRASES } from '../ops/phrases.ts';

/** Turns a mask round: puts `|> invert()` behind it, or takes it away where it stands there. */
export function invertMask(text: string, mask: Typed): TextEdit[] {
  const flowing = mask.kind === 'call' && !mask.off ? [...mask.args.values()][0] : undefined;
  if (flowing && flowing.to < mask.to) {
    const stage = text.slice(flowing.to, mask.to).replace(/\s+/g, '');
    if (stage === `|>${PHRASES.invert}`) return [{ from: flowing.to, to: mask.to, insert: '' }];
  }
  return piped(text, mask, PHRASES.invert);
}

/**
 * Spreads mask values from `low..high` over 0..1: puts a remap behind the mask, or changes the one that stands there.
 */
export function levelMask(text: string, mask: Typed, low: number, high: number): TextEdit[] {
  const number = (value: number): string => String(Math.round(value * 1000) / 1000);
  const level = PHRASES.levels(number(low), number(high));
  const before = levelOf(text, mask);
  return before ? [{ from: before.from, to: before.to, insert: level }] : piped(text, mask, level);
}

/** The levels that stand behind a mask, as `levelMask` writes them, and where. */
export function levelOf(
  text: string,
  mask: Typed,
): { readonly low: number; readonly high: number; readonly from: number; readonly to: number } | undefined {
  const found = LEVELS.exec(text.slice(mask.from, mask.to));
  return found
    ? { low: Number(found[1]), high: Number(found[2]), from: mask.from + found.index, to: mask.to }
    : undefined;
}

/**
 * A mask that flows into a call is followed by one more stage; one that is an argument takes brackets where it is not a
 * pipe or a name.
 */
function piped(text: string, mask: Typed, stage: string): TextEdit[] {
  const written = text.slice(mask.from, mask.to);
  const plain =
    mask.kind === 'call' ||
    mask.kind === 'step' ||
    mask.kind === 'swizzle' ||
    mask.kind === 'dial' ||
    written.startsWith('(');
  if (plain) return [{ from: mask.to, to: mask.to, insert: ` |> ${stage}` }];
  return [
    { from: mask.from, to: mask.from, insert: '(' },
    { from: mask.to, to: mask.to, insert: `) |> ${stage}` },
  ];
}
