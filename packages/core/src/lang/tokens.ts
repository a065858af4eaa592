import type { Span } from '../diagnostics/diagnostic.ts';

/** Units a number may carry. `%` and `fps` count as units of their own statements' literals. */
export const UNITS = ['s', 'ms', 'frames', 'deg', 'turn', 'lap', 'laps', '/s', '%', 'fps'] as const;
export type Unit = (typeof UNITS)[number];

export type TokenKind = 'name' | 'number' | 'string' | 'color' | 'symbol' | 'newline' | 'comment' | 'bad' | 'end';

export interface Token extends Span {
  readonly kind: TokenKind;
  readonly text: string;
  /** For numbers: the value as written, before its unit. */
  readonly value?: number;
  readonly unit?: Unit;
  /** For bad tokens: what is wrong, as a word for `wording.ts`. */
  readonly problem?: 'character' | 'string' | 'color';
}

const NUMBER = /(?:[0-9]+(?:\.(?!\.)[0-9]*)?|\.[0-9]+)(?:[eE][+-]?[0-9]+)?/y;
const NAME = /[A-Za-z_][A-Za-z0-9_]*/y;
const UNIT_AFTER =
  /(?:[ \t]*(?:ms|frames|s|deg|turn|laps|lap|fps)(?![A-Za-z0-9_]))|(?:[ \t]?\/s(?![A-Za-z0-9_]))|(?:[ \t]?%)/y;
const COLOR = /#[A-Za-z0-9_]*/y;
const SYMBOLS = ['|>', '..', '<=', '>=', '==', '(', ')', '{', '}', ',', ':', '=', '<', '>', '+', '-', '*', '/', '.'];

function matchAt(pattern: RegExp, text: string, at: number): string | undefined {
  pattern.lastIndex = at;
  return pattern.exec(text)?.[0];
}

/** Splits a text into tokens. Every character is in a token or is blank; the last token is `end`. */
export function tokenize(text: string): Token[] {
  const tokens: Token[] = [];
  let at = 0;
  const push = (kind: TokenKind, to: number, more: Partial<Token> = {}): void => {
    tokens.push({ kind, from: at, to, text: text.slice(at, to), ...more });
    at = to;
  };
  while (at < text.length) {
    const c = text[at] ?? '';
    if (c === '\n') {
      push('newline', at + 1);
    } else if (c === ' ' || c === '\t' || c === '\r' || c === '\uFEFF') {
      at++;
    } else if (text.startsWith('//', at)) {
      const end = text.indexOf('\n', at);
      push('comment', end === -1 ? text.length : end);
    } else if (c === '"') {
      const line = text.indexOf('\n', at);
      const stop = line === -1 ? text.length : line;
      const close = text.indexOf('"', at + 1);
      if (close === -1 || close > stop) push('bad', stop, { problem: 'string' });
      else push('string', close + 1);
    } else if (c === '#') {
      const run = matchAt(COLOR, text, at) ?? '#';
      if (/^#(?:[0-9a-fA-F]{3}|[0-9a-fA-F]{6}|[0-9a-fA-F]{8})$/.test(run)) push('color', at + run.length);
      else push('bad', at + run.length, { problem: 'color' });
    } else {
      const number = matchAt(NUMBER, text, at);
      if (number !== undefined) {
        const unitText = matchAt(UNIT_AFTER, text, at + number.length);
        const unit = unitText?.trim() as Unit | undefined;
        push('number', at + number.length + (unitText?.length ?? 0), {
          value: Number(number),
          ...(unit ? { unit } : {}),
        });
        continue;
      }
      const name = matchAt(NAME, text, at);
      if (name !== undefined) {
        push('name', at + name.length);
        continue;
      }
      const symbol = SYMBOLS.find((s) => text.startsWith(s, at));
      if (symbol !== undefined) push('symbol', at + symbol.length);
      else push('bad', at + String.fromCodePoint(text.codePointAt(at) ?? 0).length, { problem: 'character' });
    }
  }
  tokens.push({ kind: 'end', from: text.length, to: text.length, text: '' });
  return tokens;
}
