import type { Span, TextEdit } from '../diagnostics/diagnostic.ts';
import type { Argument, CallExpression, Expression, NumberLiteral, PipeExpression, Statement } from '../lang/tree.ts';
import type { Unit } from '../lang/tokens.ts';
import { lapUnit } from '../ops/phrases.ts';
import { expressionsOfStatement, partsOfExpression } from '../lang/walk.ts';
import type { OperationParameter } from '../ops/operation.ts';
import { operationNamed } from '../ops/table.ts';
import { literalValue } from '../check/literals.ts';
import type { Program } from '../check/program.ts';

/** What a literal is, as the hand takes hold of it. */
export type LiteralKind = 'number' | 'angle' | 'color' | 'vec2' | 'keyword' | 'on-off';

/** One value written in the text, and what is known of it from where it stands. */
export interface LiteralAt extends Span {
  readonly kind: LiteralKind;
  /** Components in the unit written; a keyword or switch has none. */
  readonly value: readonly number[];
  /** What stands behind the number, with the space before it; empty where there is none. */
  readonly suffix: string;
  /** Digits written behind the point. */
  readonly decimals: number;
  /** Smallest sensible change, in the unit written. */
  readonly step: number;
  /** Sensible range in the unit written, where one is known; `strict` ones hold. */
  readonly low?: number;
  readonly high?: number;
  readonly strict: boolean;
  readonly words: readonly string[];
  /** The statement it stands in. */
  readonly statement: Statement;
  /** The parameter it is given to, if it is the whole of an argument. */
  readonly parameter?: OperationParameter;
}

const UNIT_STEP: Partial<Record<Unit, number>> = {
  s: 0.1,
  ms: 10,
  frames: 1,
  deg: 1,
  turn: 0.01,
  lap: 1,
  laps: 1,
  '/s': 0.05,
  '%': 1,
  fps: 1,
};
/** From internal units to the written one: seconds, turns, periods a loop. */
const perUnit = (unit: Unit | undefined, { loop }: Program): number =>
  unit === 'ms'
    ? 1000
    : unit === 'frames'
      ? loop.fps
      : unit === 'deg'
        ? 360
        : unit === '/s'
          ? 1 / loop.seconds
          : unit === '%'
            ? 100
            : 1;

const WORDS: Partial<Record<Statement['kind'], readonly (readonly string[])[]>> = {
  surface: [
    ['lit', 'unlit'],
    ['opaque', 'mask', 'blend', 'add'],
    ['one-sided', 'two-sided'],
  ],
  image: [
    ['repeat', 'mirror', 'clamp'],
    ['linear', 'nearest'],
    ['color', 'data', 'normal'],
  ],
  ramp: [['linear', 'smooth', 'stepped']],
};

const decimalsOf = (text: string): number => /\.(\d+)/.exec(text)?.[1]?.length ?? 0;
const touches = (span: Span, at: number): boolean => span.from <= at && at <= span.to;

/** The number of a literal with a minus before it, if it is one. */
function numberOf(e: Expression): { literal: NumberLiteral; sign: 1 | -1 } | undefined {
  if (e.kind === 'number') return { literal: e, sign: 1 };
  if (e.kind === 'unary' && e.operand.kind === 'number') return { literal: e.operand, sign: -1 };
  return undefined;
}

/** Where an expression stands: which parameter it is given to, and the dial whose value, range or variant it is. */
interface Place {
  readonly statement: Statement;
  readonly parameter?: OperationParameter;
  readonly low?: number;
  readonly high?: number;
  readonly step?: number;
  readonly strict?: boolean;
}

function literalOf(program: Program, e: Expression, place: Place): LiteralAt | undefined {
  const { text } = program.tree;
  const span = { from: e.from, to: e.to };
  const base = {
    ...span,
    suffix: '',
    decimals: 0,
    step: 0.01,
    strict: place.strict === true,
    words: [],
    statement: place.statement,
    ...(place.parameter ? { parameter: place.parameter } : {}),
  };
  const number = numberOf(e);
  if (number) {
    const { literal, sign } = number;
    const written = text.slice(literal.from, literal.to);
    const digits = /^[0-9.]+(?:[eE][+-]?\d+)?/.exec(written)?.[0] ?? '';
    const per = perUnit(literal.unit, program);
    const [low, high] = [place.low, place.high].map((v) =>
      v === undefined ? undefined : Number((v * per).toPrecision(10)),
    );
    const width = low !== undefined && high !== undefined ? high - low : undefined;
    const byWidth = width === undefined ? undefined : 10 ** Math.floor(Math.log10(width / 50));
    const whole =
      place.parameter?.whole === true ||
      literal.unit === 'lap' ||
      literal.unit === 'laps' ||
      literal.unit === 'frames' ||
      literal.unit === 'fps';
    const own = place.step === undefined ? undefined : place.step * per;
    const unitStep = literal.unit ? UNIT_STEP[literal.unit] : undefined;
    const step =
      own ??
      (whole
        ? 1
        : Math.min(
            unitStep ?? byWidth ?? (digits.includes('.') ? 0.01 : Math.max(1, literal.value / 20)),
            10 ** -Math.min(decimalsOf(digits), 4),
          ));
    return {
      ...base,
      kind: literal.unit === 'deg' || literal.unit === 'turn' ? 'angle' : 'number',
      value: [sign * literal.value],
      suffix: written.slice(digits.length),
      decimals: decimalsOf(digits),
      step:
        literal.unit === undefined && byWidth !== undefined && own === undefined && !whole
          ? Math.min(byWidth, 1)
          : step,
      ...(low !== undefined && high !== undefined ? { low, high } : {}),
    };
  }
  if (e.kind === 'color') return { ...base, kind: 'color', value: literalValue(e, program.loop)?.value ?? [] };
  if (e.kind === 'on-off') return { ...base, kind: 'on-off', value: [], words: ['on', 'off'] };
  if (e.kind === 'vector' && e.items.length === 2) {
    const items = e.items.map((item) => numberOf(item));
    if (items.some((i) => !i || i.literal.unit !== undefined)) return undefined;
    return {
      ...base,
      kind: 'vec2',
      value: items.map((i) => i!.sign * i!.literal.value),
      low: place.low ?? 0,
      high: place.high ?? 1,
    };
  }
  if (e.kind === 'name' && place.parameter?.options)
    return { ...base, kind: 'keyword', value: [], words: place.parameter.options };
  return undefined;
}

/**
 * Arguments of a call by parameter; what a pipe sends in takes the first place. User operations have no record, and
 * give nothing.
 */
export function argumentsByParameter(call: CallExpression, flows: boolean): ReadonlyMap<OperationParameter, Argument> {
  const parameters = operationNamed(call.callee.name)?.parameters ?? [];
  const positional = parameters.filter((p) => p.named !== true);
  let next = flows ? 1 : 0;
  const result = new Map<OperationParameter, Argument>();
  for (const argument of call.args) {
    const p = argument.name ? parameters.find((o) => o.name === argument.name?.name) : positional[next++];
    if (p && !result.has(p)) result.set(p, argument);
  }
  return result;
}

const placeOf = (statement: Statement, parameter: OperationParameter): Place => ({
  statement,
  parameter,
  ...(parameter.range ? { low: parameter.range[0], high: parameter.range[1], strict: parameter.strict === true } : {}),
});

/** The literal that is the whole of an argument, with what its parameter says of it. */
export function literalOfArgument(
  program: Program,
  statement: Statement,
  parameter: OperationParameter,
  e: Expression,
): LiteralAt | undefined {
  return literalOf(program, e, placeOf(statement, parameter));
}

function search(
  program: Program,
  e: Expression,
  at: number,
  place: Place,
  pipe?: PipeExpression,
): LiteralAt | undefined {
  if (!touches(e, at)) return undefined;
  if (e.kind === 'call') {
    for (const [parameter, argument] of argumentsByParameter(e, pipe !== undefined)) {
      const found = search(program, argument.value, at, placeOf(place.statement, parameter));
      if (found) return found;
    }
  }
  for (const part of partsOfExpression(e)) {
    if (e.kind === 'unary' && numberOf(e)) break;
    const inner = e.kind === 'group' ? place : { statement: place.statement };
    const found = search(program, part, at, inner, e.kind === 'pipe' && part === e.call ? e : undefined);
    if (found) return found;
  }
  return literalOf(program, e, place);
}

/** The literal that an offset touches: a number with its sign and unit, a pair, a colour, a keyword, a switch. */
export function literalAt(program: Program, at: number): LiteralAt | undefined {
  const statement = program.tree.statements.find((s) => touches(s, at));
  if (!statement) return undefined;
  const dialPlace = (name: string): Place => {
    const dial = program.dials.find((d) => d.name === name);
    return {
      statement,
      strict: true,
      ...(dial?.low !== undefined && dial.high !== undefined ? { low: dial.low, high: dial.high } : {}),
      ...(dial?.step === undefined ? {} : { step: dial.step }),
    };
  };
  if (statement.kind === 'variant') {
    const entry = statement.entries.find((e) => touches(e.value, at));
    return entry && search(program, entry.value, at, dialPlace(entry.name.name));
  }
  if (statement.kind === 'dial' && touches(statement.value, at))
    return search(program, statement.value, at, dialPlace(statement.name.name));
  if (statement.kind === 'surface' || statement.kind === 'image' || statement.kind === 'ramp') {
    const written = statement.kind === 'ramp' ? (statement.word ? [statement.word] : []) : statement.words;
    const word = written.find((w) => touches(w, at));
    const words = word && WORDS[statement.kind]?.find((list) => list.includes(word.name));
    if (word && words)
      return {
        kind: 'keyword',
        from: word.from,
        to: word.to,
        value: [],
        suffix: '',
        decimals: 0,
        step: 0,
        strict: true,
        words,
        statement,
      };
  }
  const bounds: Partial<Place> =
    statement.kind === 'ramp'
      ? { low: 0, high: 1, strict: true }
      : statement.kind === 'loop'
        ? { low: 1, high: 240 }
        : {};
  for (const e of expressionsOfStatement(statement)) {
    const found = search(program, e, at, { statement, ...bounds });
    if (found) return found;
  }
  return undefined;
}

const plain = (value: number, step: number, least: number): string => {
  const decimals = Math.max(0, least, Math.ceil(-Math.log10(Math.abs(step) || 1) - 1e-9));
  const fixed = Number(value.toFixed(Math.min(decimals, 6)));
  return String(fixed === 0 ? 0 : fixed);
};

/** A literal with other components, in the unit and form it is written in, held to strict ranges. */
export function literalWith(
  { kind, suffix, decimals, step, low, high, strict }: LiteralAt,
  value: readonly number[],
  fine = 1,
): string {
  const clamped = value.map((v) =>
    strict && low !== undefined && high !== undefined ? Math.min(Math.max(v, low), high) : v,
  );
  const numbers = clamped.map((v) => plain(v, step * fine, decimals));
  if (kind === 'vec2') return `(${numbers.join(', ')})`;
  const [number = '0'] = numbers;
  return `${number}${suffix.replace(/laps?$/, lapUnit(number))}`;
}

/** The edit that moves a number by so many of its steps. */
export function nudge(literal: LiteralAt, steps: number, fine = 1): TextEdit[] {
  if (literal.kind !== 'number' && literal.kind !== 'angle') return [];
  const [value = 0] = literal.value;
  return [
    { from: literal.from, to: literal.to, insert: literalWith(literal, [value + steps * literal.step * fine], fine) },
  ];
}
