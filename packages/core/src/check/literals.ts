import type { Expression } from '../lang/tree.ts';
import { colorOfHex, vectorOf, type ValueType } from '../ops/value-type.ts';
import type { DialType, Loop } from './program.ts';
import { lapUnit } from '../ops/phrases.ts';

/** A literal's type and value in internal units. */
export interface LiteralValue {
  readonly type: ValueType;
  readonly value: readonly number[];
  /** A rate written in laps. */
  readonly inLaps?: boolean;
  /** A plain number with no unit, which a laps dial takes as laps. */
  readonly bare?: boolean;
}

/** Seconds, turns and periods a loop, from a number as written. */
function withUnit(value: number, unit: string | undefined, loop: Loop): LiteralValue {
  switch (unit) {
    case 's':
      return { type: 'time', value: [value] };
    case 'ms':
      return { type: 'time', value: [value / 1000] };
    case 'frames':
      return { type: 'time', value: [value / loop.fps] };
    case 'deg':
      return { type: 'angle', value: [value / 360] };
    case 'turn':
      return { type: 'angle', value: [value] };
    case 'lap':
    case 'laps':
      return { type: 'rate', value: [value], inLaps: true };
    case '/s':
      return { type: 'rate', value: [value * loop.seconds] };
    case '%':
      return { type: 'number', value: [value / 100] };
    default:
      return { type: 'number', value: [value], bare: true };
  }
}

/** The value of a literal, or undefined where the expression is more than one. */
export function literalValue(expression: Expression, loop: Loop): LiteralValue | undefined {
  switch (expression.kind) {
    case 'number':
      return expression.unit === 'fps' ? undefined : withUnit(expression.value, expression.unit, loop);
    case 'color':
      return { type: 'vec4', value: colorOfHex(expression.hex) };
    case 'on-off':
      return { type: 'number', value: [expression.on ? 1 : 0] };
    case 'group':
      return literalValue(expression.inner, loop);
    case 'unary': {
      const of = literalValue(expression.operand, loop);
      return of && { ...of, value: of.value.map((v) => -v) };
    }
    case 'vector': {
      const items = expression.items.map((item) => literalValue(item, loop));
      if (items.some((item) => item?.type !== 'number')) return undefined;
      return { type: vectorOf(items.length), value: items.flatMap((item) => item?.value ?? []) };
    }
    default:
      return undefined;
  }
}

/** The value type a dial of this type has in expressions. */
export const valueTypeOf = (type: DialType): ValueType => (type === 'laps' ? 'rate' : type === 'color' ? 'vec4' : type);

/** How a literal for a dial of this type looks, for messages. */
export const LITERAL_FORMS: Record<DialType, string> = {
  number: 'a number such as 0.5',
  laps: 'laps such as 2',
  rate: 'a rate such as 0.25/s',
  time: 'a time such as 1.5s',
  angle: 'an angle such as 90deg',
  vec2: 'a pair such as (0.5, 0.5)',
  color: 'a colour such as #9fd8e6',
};

/** Whether a literal may stand for a dial of this type. */
export function fitsDial(type: DialType, literal: LiteralValue): boolean {
  if (type === 'laps') return literal.bare === true || literal.inLaps === true;
  return literal.type === valueTypeOf(type);
}

/** Units that make a plain number what is wanted, as they follow it. */
export function unitsFor(wanted: string, value: number | string): readonly string[] {
  if (wanted === 'rate') return ['/s', ` ${lapUnit(value)}`];
  return wanted === 'time' ? ['s'] : wanted === 'angle' ? ['deg'] : [];
}

const trimmed = (value: number): string => String(Number(value.toPrecision(6)));

/** A value of a dial of this type as Wake text, up to six digits. */
export function literalText(
  type: DialType,
  value: readonly number[],
  loop: Loop,
  hex: (color: readonly number[]) => string,
): string {
  const [x = 0] = value;
  switch (type) {
    case 'laps':
      return trimmed(x);
    case 'rate':
      return `${trimmed(x / loop.seconds)}/s`;
    case 'time':
      return `${trimmed(x)}s`;
    case 'angle':
      return `${trimmed(x * 360)}deg`;
    case 'vec2':
      return `(${value.map(trimmed).join(', ')})`;
    case 'color':
      return hex(value);
    default:
      return trimmed(x);
  }
}
