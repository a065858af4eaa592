import { GREATEST } from '../diagnostics/limits.ts';
import { say } from '../diagnostics/wording.ts';
import type { Cursor } from './cursor.ts';
import type { Token } from './tokens.ts';
import type { Argument, BinaryOperator, CallExpression, Expression } from './tree.ts';

/** Deepest nesting of an expression; later passes walk trees by recursion. */
export const DEPTH_LIMIT = 200;

const heightOf = (...parts: readonly (Expression | undefined)[]): number =>
  1 + Math.max(0, ...parts.map((p) => p?.height ?? 0));

function missing(cursor: Cursor): Expression {
  const at = Math.max(cursor.last, 0);
  return { kind: 'missing', from: at, to: at, height: 1 };
}

function tooDeep(cursor: Cursor, expression: Expression): Expression {
  if (expression.height <= DEPTH_LIMIT) return expression;
  cursor.fail(say.tooDeep(DEPTH_LIMIT), { from: expression.from, to: Math.min(expression.to, expression.from + 40) });
  return { kind: 'missing', from: expression.from, to: expression.to, height: 1 };
}

/** expression = comparison { '|>' ['off'] call } */
export function parseExpression(cursor: Cursor, depth = 0): Expression {
  if (depth > DEPTH_LIMIT / 4) {
    cursor.fail(say.tooDeep(DEPTH_LIMIT / 4), cursor.peek);
    return missing(cursor);
  }
  let left = parseBinary(cursor, 0, depth);
  while (!cursor.hasFailed() && cursor.is('|>')) {
    const arrow = cursor.take();
    const off = cursor.is('off') ? cursor.take() : undefined;
    const callee = cursor.identifier('the name of an operation');
    if (!callee) return left;
    const open = cursor.peek;
    let call: CallExpression;
    if (open.text === '(') {
      cursor.take();
      call = finishCall(cursor, callee, open, depth);
    } else {
      cursor.fail(
        say.expected("'('", open.kind === 'newline' || open.kind === 'end' ? 'the end of the line' : `'${open.text}'`),
        callee,
        [{ title: `Write ${callee.name}()`, edits: [{ from: callee.to, to: callee.to, insert: '()' }] }],
      );
      call = { kind: 'call', callee, args: [], from: callee.from, to: callee.to, height: 1 };
    }
    left = tooDeep(cursor, {
      kind: 'pipe',
      left,
      ...(off ? { off: { from: off.from, to: off.to } } : {}),
      call,
      stage: { from: arrow.from, to: call.to },
      from: left.from,
      to: call.to,
      height: heightOf(left, call),
    });
  }
  return left;
}

const LEVELS: readonly (readonly BinaryOperator[])[] = [
  ['<', '<=', '>', '>=', '=='],
  ['+', '-'],
  ['*', '/'],
];

function parseBinary(cursor: Cursor, level: number, depth: number): Expression {
  const operators = LEVELS[level];
  if (!operators) return parseUnary(cursor, depth);
  let left = parseBinary(cursor, level + 1, depth);
  while (!cursor.hasFailed()) {
    const token = cursor.peek;
    const operator = operators.find((o) => o === token.text);
    if (operator === undefined || token.kind !== 'symbol') break;
    cursor.take();
    const right = parseBinary(cursor, level + 1, depth);
    left = tooDeep(cursor, {
      kind: 'binary',
      operator,
      operatorSpan: { from: token.from, to: token.to },
      left,
      right,
      from: left.from,
      to: right.to,
      height: heightOf(left, right),
    });
  }
  return left;
}

function parseUnary(cursor: Cursor, depth: number): Expression {
  const minus: Token[] = [];
  while (cursor.is('-')) minus.push(cursor.take());
  let operand = parsePostfix(cursor, depth);
  for (const token of minus.reverse()) {
    operand = tooDeep(cursor, { kind: 'unary', operand, from: token.from, to: operand.to, height: heightOf(operand) });
  }
  return operand;
}

function parsePostfix(cursor: Cursor, depth: number): Expression {
  let of = parsePrimary(cursor, depth);
  while (!cursor.hasFailed() && cursor.is('.')) {
    cursor.take();
    const parts = cursor.identifier('parts such as .x or .rgb');
    if (!parts) return of;
    of = tooDeep(cursor, { kind: 'swizzle', of, parts, from: of.from, to: parts.to, height: heightOf(of) });
  }
  return of;
}

function parsePrimary(cursor: Cursor, depth: number): Expression {
  const token = cursor.peek;
  const { from, to } = token;
  switch (token.kind) {
    case 'number': {
      cursor.take();
      const { value = 0, unit = '' } = token;
      if (value > GREATEST)
        cursor.diagnostics.add(say.numberTooLarge(token.text), token, [
          { title: `Write 3.4e38${unit}`, edits: [{ from, to, insert: `3.4e38${unit}` }] },
        ]);
      const next = cursor.peek;
      if (
        next.kind === 'name' &&
        next.from <= token.to + 1 &&
        next.text !== 'in' &&
        next.text !== 'by' &&
        next.text !== 'at'
      ) {
        cursor.fail(say.unknownUnit(next.text), next, [
          { title: 'Remove it', edits: [{ from: token.to, to: next.to, insert: '' }] },
        ]);
      }
      return {
        kind: 'number',
        value: Math.min(value, GREATEST),
        ...(token.unit ? { unit: token.unit } : {}),
        from,
        to,
        height: 1,
      };
    }
    case 'color':
      cursor.take();
      return { kind: 'color', hex: token.text, from, to, height: 1 };
    case 'name': {
      cursor.take();
      if (token.text === 'on' || token.text === 'off')
        return { kind: 'on-off', on: token.text === 'on', from, to, height: 1 };
      if (cursor.is('(')) return finishCall(cursor, { name: token.text, from, to }, cursor.take(), depth);
      return { kind: 'name', name: token.text, from, to, height: 1 };
    }
    case 'symbol':
      if (token.text === '(') return parseParentheses(cursor, depth);
      break;
    default:
  }
  cursor.failExpected('a value');
  return missing(cursor);
}

function parseParentheses(cursor: Cursor, depth: number): Expression {
  const open = cursor.take();
  const items: Expression[] = [];
  cursor.within(open, () => {
    do {
      items.push(parseExpression(cursor, depth + 1));
    } while (!cursor.hasFailed() && cursor.takeIf(','));
  });
  const span = { from: open.from, to: Math.max(cursor.last, open.to) };
  const [first] = items;
  if (items.length === 1 && first)
    return tooDeep(cursor, { kind: 'group', inner: first, ...span, height: heightOf(first) });
  if (items.length > 4) cursor.fail(say.vectorSize(), span);
  return tooDeep(cursor, { kind: 'vector', items, ...span, height: heightOf(...items) });
}

function finishCall(
  cursor: Cursor,
  callee: { name: string; from: number; to: number },
  open: Token,
  depth: number,
): CallExpression {
  const args: Argument[] = [];
  cursor.within(open, () => {
    if (cursor.is(')')) return;
    do {
      const first = cursor.peek;
      const named = first.kind === 'name' && cursor.peekSecond.text === ':';
      let name;
      if (named) {
        cursor.take();
        cursor.take();
        name = { name: first.text, from: first.from, to: first.to };
      }
      const value = parseExpression(cursor, depth + 1);
      if (!named && args.some((a) => a.name)) cursor.fail(say.positionalAfterNamed(), value);
      args.push({ ...(name ? { name } : {}), value, from: name?.from ?? value.from, to: value.to });
    } while (!cursor.hasFailed() && cursor.takeIf(','));
  });
  return {
    kind: 'call',
    callee,
    args,
    from: callee.from,
    to: Math.max(cursor.last, open.to),
    height: heightOf(...args.map((a) => a.value)),
  };
}
