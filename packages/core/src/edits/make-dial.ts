import type { TextEdit } from '../diagnostics/diagnostic.ts';
import { removeExposed, usesOf } from './dial-edits.ts';
import { insertDeclaration } from './line-edits.ts';
import type { NameExpression } from '../lang/tree.ts';
import type { LiteralAt } from './literal-at.ts';
import { lapsText } from '../ops/phrases.ts';
import { BUILT_INS, type Dial, type DialType, type Program } from '../check/program.ts';
import { reasons } from '../diagnostics/reasons.ts';

/** Every name that is taken in a text. */
export function namesOf(program: Program): ReadonlySet<string> {
  const { dials, switches, images, ramps, steps } = program;
  return new Set([...dials, ...switches, ...images, ...ramps, ...steps].map((n) => n.name));
}

/** A name like `wanted` that is not taken. */
export function freeName(program: Program, wanted: string): string {
  const taken = new Set([...namesOf(program), ...Object.keys(BUILT_INS)]);
  const clean = wanted.toLowerCase().replace(/[^a-z0-9_]/g, '_');
  const start = /^[a-z_]/.test(clean) ? clean : `n${clean}`;
  if (!taken.has(start)) return start;
  for (let i = 2; ; i++) if (!taken.has(`${start}${String(i)}`)) return `${start}${String(i)}`;
}

function typeOf({ kind, suffix }: LiteralAt): DialType | undefined {
  if (kind === 'color' || kind === 'angle' || kind === 'vec2') return kind;
  if (kind !== 'number') return undefined;
  switch (suffix.trim()) {
    case 'lap':
    case 'laps':
      return 'laps';
    case '/s':
      return 'rate';
    case 's':
    case 'ms':
    case 'frames':
      return 'time';
    case '':
    case '%':
      return 'number';
    default:
      return undefined;
  }
}

/** A range for a dial made of this literal, as written: its parameter's, widened so far that the value lies inside. */
function rangeOf(literal: LiteralAt, type: DialType): string {
  if (type === 'color') return '';
  const [value = 0] = literal.value;
  if (type === 'angle') {
    const turns = Math.ceil(Math.abs(literal.suffix.trim() === 'deg' ? value / 360 : value)) || 1;
    return value < 0
      ? ` in ${String(-360 * turns)}deg..${String(360 * turns)}deg`
      : ` in 0deg..${String(360 * turns)}deg`;
  }
  const number = (v: number): string => String(Number(v.toPrecision(4)));
  const unit = type === 'laps' ? '' : literal.suffix;
  const max = Math.max(...literal.value.map(Math.abs));
  let { low, high } = literal;
  if (low === undefined || high === undefined)
    [low, high] = [literal.value.some((v) => v < 0) ? -2 * max : 0, max === 0 ? 1 : 2 * max];
  if (type === 'laps') [low, high] = [Math.floor(Math.min(low, -6)), Math.ceil(Math.max(high, 6))];
  if (type === 'rate') [low, high] = [Math.min(low, -2 * max), Math.max(high, 2 * max)];
  low = Math.min(low, ...literal.value);
  high = Math.max(high, ...literal.value);
  return ` in ${number(low)}${unit}..${number(high)}${unit}`;
}

/**
 * Why a literal cannot be made a dial, or the edits that do it: a dial of fitting type and range, and its name in the
 * number's place.
 */
export function makeDial(
  program: Program,
  literal: LiteralAt,
  wanted?: string,
): { readonly edits: TextEdit[]; readonly name: string } | { readonly complaint: string } {
  const { tree } = program;
  const { statement, parameter } = literal;
  if (statement.kind !== 'step' && statement.kind !== 'out') return { complaint: reasons.dialElsewhere };
  if (parameter?.constant) return { complaint: reasons.dialCompiled(parameter.name) };
  const type = typeOf(literal);
  if (!type) return { complaint: reasons.dialKind };
  const owner = statement.kind === 'step' ? statement.name.name : statement.channel.name;
  const name = freeName(program, wanted ?? (parameter ? `${owner}_${parameter.name}` : `${owner}_value`));
  const written = tree.text.slice(literal.from, literal.to);
  const value = type === 'laps' ? String(literal.value[0] ?? 0) : written;
  const broken = type === 'laps' && !Number.isInteger(literal.value[0]) ? ' by 0.5' : '';
  const help = parameter?.help ? ` "${parameter.help.replace(/"/g, "'").replace(/\.$/, '')}"` : '';
  const line = `dial ${name}${type === 'number' ? '' : `: ${type}`} = ${value}${rangeOf(literal, type)}${broken}${help}`;
  return {
    name,
    edits: [...insertDeclaration(tree, ['dial', 'switch'], line), { from: literal.from, to: literal.to, insert: name }],
  };
}

/** A dial's default as it may stand in an expression. */
export function literalForUse(dial: Dial, program: Program): string {
  const text = program.tree.text.slice(dial.valueSpan.from, dial.valueSpan.to);
  const whole = dial.type === 'laps' && !/laps?$/.test(text) ? lapsText(text) : text;
  return whole.startsWith('-') ? `(${whole})` : whole;
}

/** Writes a dial's default where it is used; the dial goes with its last use. */
export function makeConstant(program: Program, use: NameExpression): TextEdit[] {
  const dial = program.dials.find((d) => d.name === use.name);
  if (!dial) return [];
  const literal = literalForUse(dial, program);
  if (usesOf(program.tree, use.name).length <= 1) return removeExposed(program.tree, use.name, literal);
  return [{ from: use.from, to: use.to, insert: literal }];
}
