import { nearest, say } from '../diagnostics/wording.ts';
import { STATEMENT_WORDS, type Cursor } from './cursor.ts';
import { parseExpression } from './parse-expression.ts';
import type {
  ColorLiteral,
  DialStatement,
  Expression,
  Identifier,
  ImageStatement,
  LoopStatement,
  NumberLiteral,
  OperationStatement,
  OutputStatement,
  Parameter,
  RampStatement,
  RampStop,
  Statement,
  StepStatement,
  SurfaceStatement,
  SwitchStatement,
  VariantEntry,
  VariantStatement,
} from './tree.ts';

type Shape<S> = S extends { from: number; to: number } ? Omit<S, 'from' | 'to'> : never;

const textOf = (token: { text: string }): string => token.text.slice(1, -1);
const gap = (at: number): Expression => ({ kind: 'missing', from: at, to: at, height: 1 });

/** Reads one statement and leaves the cursor at its end, whatever was found. */
export function parseStatement(cursor: Cursor): Statement {
  const { from } = cursor.peek;
  const shape = readStatement(cursor);
  if (!cursor.hasFailed() && !cursor.atEnd()) cursor.failExpected('the end of the line');
  if (cursor.hasFailed()) cursor.recover();
  return { ...shape, from, to: Math.max(cursor.last, from) };
}

function readStatement(cursor: Cursor): Shape<Statement> {
  const first = cursor.peek;
  if (first.kind !== 'name') {
    if (first.kind === 'bad' || first.text === ')' || first.text === '}') cursor.failExpected('a statement');
    else cursor.fail(say.notAStatement(first.kind === 'string' ? first.text : `'${first.text}'`), first);
    return { kind: 'bad' };
  }
  const second = cursor.peekSecond;
  if (second.text === '=') return step(cursor);
  switch (first.text) {
    case 'material':
      return material(cursor);
    case 'loop':
      return loop(cursor);
    case 'surface':
      return surface(cursor);
    case 'dial':
      return dial(cursor);
    case 'switch':
      return switchLine(cursor);
    case 'image':
      return image(cursor);
    case 'ramp':
      return ramp(cursor);
    case 'op':
      return operation(cursor);
    case 'variant':
      return variant(cursor);
    case 'out':
      return output(cursor);
    case 'off': {
      const off = cursor.take();
      const span = { from: off.from, to: off.to };
      if (cursor.is('out') && cursor.peekSecond.kind === 'name') return output(cursor, span);
      return step(cursor, span);
    }
    default: {
      const near =
        second.kind === 'name' || second.kind === 'string' ? nearest(first.text, STATEMENT_WORDS) : undefined;
      if (near !== undefined) {
        cursor.fail(say.notAStatement(`'${first.text}'`), first, [
          { title: `Write ${near}`, edits: [{ from: first.from, to: first.to, insert: near }] },
        ]);
        return { kind: 'bad' };
      }
      cursor.take();
      if (cursor.atEnd() || second.kind !== 'symbol') cursor.fail(say.notAStatement(`'${first.text}'`), first);
      else cursor.failExpected("'='");
      return { kind: 'bad' };
    }
  }
}

function material(cursor: Cursor): Shape<Statement> {
  cursor.take();
  const title = cursor.peek;
  if (title.kind !== 'string') {
    cursor.failExpected('a title in double quotes');
    return { kind: 'bad' };
  }
  cursor.take();
  return { kind: 'material', title: textOf(title), titleSpan: { from: title.from, to: title.to } };
}

function numberLiteral(cursor: Cursor, what: string): NumberLiteral | undefined {
  const token = cursor.peek;
  if (token.kind !== 'number') {
    cursor.failExpected(what);
    return undefined;
  }
  const read = parseLiteral(cursor);
  return read.kind === 'number' ? read : undefined;
}

function loop(cursor: Cursor): Shape<LoopStatement> {
  cursor.take();
  const time = numberLiteral(cursor, 'a time such as 4s');
  if (!time) return { kind: 'loop' };
  if (!cursor.expect('at', "'at' and a rate such as 30fps")) return { kind: 'loop', time };
  const fps = numberLiteral(cursor, 'a rate such as 30fps');
  return { kind: 'loop', time, ...(fps ? { fps } : {}) };
}

function words(cursor: Cursor): Identifier[] {
  const list: Identifier[] = [];
  while (!cursor.atEnd() && cursor.peek.kind === 'name') {
    let { text, to } = cursor.take();
    const { from } = { from: to - text.length };
    while (
      cursor.is('-') &&
      cursor.peek.from === to &&
      cursor.peekSecond.kind === 'name' &&
      cursor.peekSecond.from === cursor.peek.to
    ) {
      cursor.take();
      const rest = cursor.take();
      text += `-${rest.text}`;
      to = rest.to;
    }
    list.push({ name: text, from, to });
  }
  return list;
}

function surface(cursor: Cursor): Shape<SurfaceStatement> {
  cursor.take();
  const list = words(cursor);
  if (list.length === 0) cursor.failExpected('words such as lit, blend or two-sided');
  return { kind: 'surface', words: list };
}

/** A plain value, with an optional minus; anything longer is read whole so that the checker can say so. */
function parseLiteral(cursor: Cursor): Expression {
  return parseExpression(cursor);
}

function help(cursor: Cursor): { help?: string } {
  if (cursor.peek.kind !== 'string') return {};
  return { help: textOf(cursor.take()) };
}

function dial(cursor: Cursor): Shape<DialStatement> | Shape<Statement> {
  cursor.take();
  const name = cursor.identifier("the dial's name");
  if (!name) return { kind: 'bad' };
  const type = cursor.takeIf(':') ? cursor.identifier('a type such as number, laps or color') : undefined;
  let value = gap(cursor.last);
  let low, high, by;
  if (!cursor.hasFailed() && cursor.expect('=', type ? "'='" : "':' and a type, or '='")) {
    value = parseLiteral(cursor);
    if (!cursor.hasFailed() && cursor.takeIf('in')) {
      low = parseLiteral(cursor);
      if (!cursor.hasFailed() && cursor.expect('..', "'..' between the low and high end")) high = parseLiteral(cursor);
    }
    if (!cursor.hasFailed() && cursor.takeIf('by')) by = parseLiteral(cursor);
  }
  return {
    kind: 'dial',
    name,
    ...(type ? { type } : {}),
    value,
    ...(low ? { low } : {}),
    ...(high ? { high } : {}),
    ...(by ? { by } : {}),
    ...(cursor.hasFailed() ? {} : help(cursor)),
  };
}

function switchLine(cursor: Cursor): Shape<SwitchStatement> | Shape<Statement> {
  cursor.take();
  const name = cursor.identifier("the switch's name");
  if (!name) return { kind: 'bad' };
  const value = cursor.expect('=') ? parseLiteral(cursor) : gap(cursor.last);
  return { kind: 'switch', name, value, ...(cursor.hasFailed() ? {} : help(cursor)) };
}

function image(cursor: Cursor): Shape<ImageStatement> | Shape<Statement> {
  cursor.take();
  const name = cursor.identifier("the image's name");
  if (!name) return { kind: 'bad' };
  cursor.expect('=');
  const source = cursor.peek;
  if (cursor.hasFailed() || source.kind !== 'string') {
    cursor.failExpected('the name of a source in double quotes');
    return { kind: 'image', name, source: '', sourceSpan: name, words: [] };
  }
  cursor.take();
  return {
    kind: 'image',
    name,
    source: textOf(source),
    sourceSpan: { from: source.from, to: source.to },
    words: words(cursor),
  };
}

function ramp(cursor: Cursor): Shape<RampStatement> | Shape<Statement> {
  cursor.take();
  const name = cursor.identifier("the ramp's name");
  if (!name) return { kind: 'bad' };
  const stops: RampStop[] = [];
  if (cursor.expect('=')) {
    do {
      const at = numberLiteral(cursor, 'a position such as 40%');
      const color = at && !cursor.hasFailed() ? cursor.peek : undefined;
      if (!at || !color) break;
      if (color.kind !== 'color') {
        cursor.failExpected('a colour such as #ff8800');
        break;
      }
      cursor.take();
      const literal: ColorLiteral = { kind: 'color', hex: color.text, from: color.from, to: color.to, height: 1 };
      stops.push({ at, color: literal, from: at.from, to: color.to });
    } while (cursor.takeIf(','));
  }
  const word =
    !cursor.hasFailed() && cursor.peek.kind === 'name' ? cursor.identifier('linear, smooth or stepped') : undefined;
  return { kind: 'ramp', name, stops, ...(word ? { word } : {}) };
}

function step(cursor: Cursor, off?: { from: number; to: number }): Shape<StepStatement> | Shape<Statement> {
  const name = cursor.identifier("a step's name");
  if (!name) return { kind: 'bad' };
  const value = cursor.expect('=') ? parseExpression(cursor) : gap(cursor.last);
  return { kind: 'step', ...(off ? { off } : {}), name, value };
}

function output(cursor: Cursor, off?: { from: number; to: number }): Shape<OutputStatement> | Shape<Statement> {
  cursor.take();
  const channel = cursor.identifier('an output such as color or opacity');
  if (!channel) return { kind: 'bad' };
  const value = cursor.expect('=') ? parseExpression(cursor) : gap(cursor.last);
  return { kind: 'out', ...(off ? { off } : {}), channel, value };
}

function parameters(cursor: Cursor): Parameter[] {
  const list: Parameter[] = [];
  if (cursor.is(')')) return list;
  do {
    const name = cursor.identifier("a parameter's name");
    if (!name) break;
    const type = cursor.expect(':', "':' and a type") ? cursor.identifier('a type such as vec2 or rate') : undefined;
    const value = !cursor.hasFailed() && cursor.takeIf('=') ? parseLiteral(cursor) : undefined;
    list.push({ name, ...(type ? { type } : {}), ...(value ? { value } : {}), from: name.from, to: cursor.last });
  } while (!cursor.hasFailed() && cursor.takeIf(','));
  return list;
}

function operation(cursor: Cursor): Shape<OperationStatement> | Shape<Statement> {
  cursor.take();
  const name = cursor.identifier("the operation's name");
  if (!name) return { kind: 'bad' };
  let list: Parameter[] = [];
  const steps: StepStatement[] = [];
  let result = gap(cursor.last);
  const open = cursor.expect('(');
  if (open) list = cursor.within(open, () => parameters(cursor));
  if (!cursor.hasFailed() && cursor.expect('=')) {
    const brace = cursor.takeIf('{');
    if (!brace) result = parseExpression(cursor);
    else
      cursor.within(brace, () => {
        result = operationBody(cursor, steps);
      });
  }
  return { kind: 'op', name, parameters: list, steps, result };
}

function operationBody(cursor: Cursor, steps: StepStatement[]): Expression {
  let broken = false;
  let result: Expression | undefined;
  for (;;) {
    cursor.blank();
    if (cursor.is('}') || cursor.leavesBraces()) break;
    const { from } = cursor.peek;
    if (cursor.is('return') && cursor.peekSecond.text !== '=') {
      cursor.take();
      result = parseExpression(cursor);
    } else {
      const off = cursor.is('off') ? cursor.take() : undefined;
      const shape = step(cursor, off ? { from: off.from, to: off.to } : undefined);
      if (shape.kind === 'step') steps.push({ ...shape, from, to: cursor.last });
    }
    if (!cursor.hasFailed() && !cursor.atEnd() && !cursor.is('}')) cursor.failExpected('the end of the line');
    if (cursor.hasFailed()) {
      broken = true;
      cursor.recover();
      cursor.forgive();
    }
  }
  if (!result && !broken) cursor.failExpected("'return' and a value");
  return result ?? gap(cursor.last);
}

function variant(cursor: Cursor): Shape<VariantStatement> | Shape<Statement> {
  cursor.take();
  const title = cursor.peek;
  if (title.kind !== 'string') {
    cursor.failExpected("the variant's name in double quotes");
    return { kind: 'bad' };
  }
  cursor.take();
  const entries: VariantEntry[] = [];
  const open = cursor.expect('{');
  if (open) {
    cursor.within(open, () => {
      for (;;) {
        cursor.blank();
        if (cursor.is('}') || cursor.leavesBraces()) return;
        const name = cursor.identifier('the name of a dial or switch');
        const value = name && cursor.expect('=') ? parseLiteral(cursor) : undefined;
        if (name && value) entries.push({ name, value, from: name.from, to: value.to });
        if (!cursor.hasFailed() && !cursor.takeIf(',') && !cursor.atEnd() && !cursor.is('}'))
          cursor.failExpected("',' or '}'");
        if (cursor.hasFailed()) {
          cursor.recover();
          cursor.forgive();
        }
      }
    });
  }
  return { kind: 'variant', title: textOf(title), titleSpan: { from: title.from, to: title.to }, entries };
}
