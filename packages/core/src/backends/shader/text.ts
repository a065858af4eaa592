import { GREATEST } from '../../diagnostics/limits.ts';
import type { IrType } from '../../ir/node.ts';

/** Shader text with how tightly it binds: 0 comparison, 1 sum, 2 product, 3 unary, 4 atom. */
export interface Text {
  readonly text: string;
  readonly level: number;
  readonly type: IrType;
}

/** An operand where what is around it binds with `level`: in brackets where it binds less. */
export const within = ({ text, level }: Text, around: number): string => (level < around ? `(${text})` : text);

/** A 32-bit float literal with as few digits as name it. */
export function floatText(value: number): string {
  // What is beyond range is an error elsewhere; here it only has to be a number.
  const held = Number.isNaN(value) ? 0 : Math.min(Math.max(value, -GREATEST), GREATEST);
  const rounded = Math.fround(held);
  let text = '';
  for (let digits = 1; digits <= 9; digits++) {
    text = rounded.toPrecision(digits);
    if (Math.fround(Number(text)) === rounded) break;
  }
  const short = String(Number(text));
  return /[.e]/.test(short) ? short : `${short}.0`;
}
