import { lapsText } from '../ops/phrases.ts';
import type { TextEdit } from '../diagnostics/diagnostic.ts';
import { removeArgument, setArgument } from './call-edits.ts';
import { setVariantValue } from './dial-edits.ts';
import { setDefault } from './edits.ts';
import type { CallExpression, OutputStatement, StepStatement } from '../lang/tree.ts';
import { operationNamed } from '../ops/table.ts';
import { hexOfColor } from '../ops/value-type.ts';
import { argumentsByParameter, literalOfArgument } from './literal-at.ts';
import { literalText, literalValue } from '../check/literals.ts';
import type { Dial, DialType, Program } from '../check/program.ts';

/** An argument that a hand can take hold of: its value in internal units, and the edit that gives it another. */
export interface HeldArgument {
  readonly value: readonly number[];
  /** Counted in laps, so that whole numbers close the loop. */
  readonly laps: boolean;
  readonly write: (value: readonly number[]) => TextEdit[];
}

const typeFor = (accepts: readonly string[]): DialType =>
  accepts.includes('rate')
    ? 'rate'
    : accepts.includes('angle')
      ? 'angle'
      : accepts.includes('time')
        ? 'time'
        : accepts.includes('number') || accepts.includes('vector')
          ? 'number'
          : 'vec2';

/**
 * The value of a call's argument, wherever it is written: as a literal there, in a dial, or not at all.
 * With a variant, a dial is read from and written to that variant. Undefined for what is computed.
 */
export function heldArgument(
  program: Program,
  statement: StepStatement | OutputStatement,
  call: CallExpression,
  flows: boolean,
  name: string,
  variant?: string,
): HeldArgument | undefined {
  const { tree, loop } = program;
  const parameter = operationNamed(call.callee.name)?.parameters.find((p) => p.name === name);
  if (!parameter) return undefined;
  const argument = argumentsByParameter(call, flows).get(parameter);
  const text = (type: DialType, value: readonly number[]): string => literalText(type, value, loop, hexOfColor);
  if (!argument) {
    if (parameter.default === undefined || typeof parameter.default === 'string') return undefined;
    const value = typeof parameter.default === 'number' ? [parameter.default] : [...parameter.default];
    const type = value.length === 2 ? 'vec2' : typeFor(parameter.accepts);
    const written = (next: readonly number[]): string =>
      type === 'rate' ? lapsText(text('laps', next)) : text(type, next);
    return {
      value,
      laps: type === 'rate',
      write: (next) => setArgument(tree.text, call, undefined, name, written(next)),
    };
  }
  const { value: e } = argument;
  const dial: Dial | undefined = e.kind === 'name' ? program.dials.find((d) => d.name === e.name) : undefined;
  if (dial) {
    const own = program.variants.find((v) => v.name === variant);
    const clamped = (v: number): number => Math.min(Math.max(v, dial.low ?? -Infinity), dial.high ?? Infinity);
    return {
      value: own?.values.get(dial.name) ?? dial.value,
      laps: dial.type === 'laps',
      write: (next) => {
        const literal = text(dial.type, next.map(clamped));
        return own ? setVariantValue(tree, own.name, dial.name, literal) : setDefault(tree, dial.name, literal);
      },
    };
  }
  const literal = literalOfArgument(program, statement, parameter, e);
  const value = literalValue(e, loop);
  if (!literal || !value || literal.kind === 'color') return undefined;
  const type: DialType = value.inLaps
    ? 'laps'
    : value.type === 'vec2' || value.type === 'angle' || value.type === 'time' || value.type === 'rate'
      ? value.type
      : 'number';
  return {
    value: value.value,
    laps: value.inLaps === true,
    write: (next) => {
      const back = parameter.default;
      const same =
        back !== undefined &&
        typeof back !== 'string' &&
        JSON.stringify(typeof back === 'number' ? [back] : back) === JSON.stringify(next);
      const removal = same && argument.name ? removeArgument(call, argument) : [];
      if (removal.length > 0) return removal;
      return setArgument(
        tree.text,
        call,
        argument,
        name,
        type === 'laps' ? lapsText(text('laps', next)) : text(type, next),
      );
    },
  };
}
