import type { Diagnostics, Fix, Message, Span } from '../diagnostics/diagnostic.ts';
import { say } from '../diagnostics/wording.ts';
import type { Token } from './tokens.ts';
import type { Identifier } from './tree.ts';

/** Words that begin a statement when a name or value of their kind follows. */
export const STATEMENT_WORDS = [
  'material',
  'loop',
  'surface',
  'dial',
  'switch',
  'image',
  'ramp',
  'op',
  'off',
  'out',
  'variant',
] as const;

const CLOSERS: Record<string, string> = { '(': ')', '{': '}' };

/**
 * Walks over the tokens of a text, and knows where a statement ends: at the end of a line, unless
 * a bracket is open or the next line starts with `|>`. A line that can only begin a statement ends
 * the one before it even when a bracket was left open.
 */
export class Cursor {
  #at = 0;
  readonly #open: Token[] = [];
  #failed = false;

  constructor(
    readonly tokens: readonly Token[],
    readonly diagnostics: Diagnostics,
  ) {}

  /** True from the first error of a statement until its end: one mistake, one message. */
  hasFailed(): boolean {
    return this.#failed;
  }

  /** Lets the next entry of a braced statement report again. */
  forgive(): void {
    this.#failed = false;
  }

  #token(index: number): Token {
    // The last token is always `end`.
    return this.tokens[Math.min(index, this.tokens.length - 1)]!;
  }

  /** Index of the token to be read next, past blanks that do not end the statement. */
  #next(): number {
    let i = this.#at;
    for (;;) {
      const token = this.#token(i);
      if (token.kind === 'comment') i++;
      else if (token.kind === 'newline' && this.#goesOn(i)) i++;
      else return i;
    }
  }

  #significant(from: number): number {
    let i = from;
    while (this.#token(i).kind === 'newline' || this.#token(i).kind === 'comment') i++;
    return i;
  }

  #goesOn(newline: number): boolean {
    const i = this.#significant(newline + 1);
    if (this.#token(i).text === '|>') return true;
    const innermost = this.#open.at(-1);
    return innermost?.text === '(' && this.#token(i).kind !== 'end' && !this.#beginsStatement(i);
  }

  /** Whether the token can only be the start of a statement: `name =`, `dial name`, `out name` ... */
  #beginsStatement(i: number): boolean {
    const [a, b, c] = [this.#token(i), this.#token(i + 1), this.#token(i + 2)];
    if (a.kind !== 'name') return false;
    if (b.text === '=') return true;
    switch (a.text) {
      case 'material':
      case 'variant':
        return b.kind === 'string' || b.text === '{';
      case 'loop':
        return b.kind === 'number';
      case 'surface':
        return b.kind === 'name';
      case 'off':
        return b.kind === 'name' && (c.text === '=' || (b.text === 'out' && c.kind === 'name'));
      case 'dial':
      case 'switch':
      case 'image':
      case 'ramp':
      case 'out':
        return b.kind === 'name' && (c.text === '=' || c.text === ':');
      case 'op':
        return b.kind === 'name' && c.text === '(';
      default:
        return false;
    }
  }

  get peek(): Token {
    return this.#token(this.#next());
  }

  /** The token after the next one, on the same statement. */
  get peekSecond(): Token {
    const i = this.#next();
    return this.#token(i + 1);
  }

  take(): Token {
    const i = this.#next();
    const token = this.#token(i);
    if (token.kind !== 'end' && token.kind !== 'newline') this.#at = i + 1;
    return token;
  }

  /** End offset of the last token taken. */
  get last(): number {
    return this.#at === 0 ? 0 : this.#token(this.#at - 1).to;
  }

  is(text: string): boolean {
    const { kind, text: got } = this.peek;
    return got === text && kind !== 'string';
  }

  takeIf(text: string): Token | undefined {
    return this.is(text) ? this.take() : undefined;
  }

  atEnd(): boolean {
    const { kind } = this.peek;
    return kind === 'newline' || kind === 'end';
  }

  /** Reports at a span, unless this statement has failed already. */
  fail(message: Message, span: Span, fixes: readonly Fix[] = []): void {
    if (!this.#failed) this.diagnostics.add(message, span, fixes);
    this.#failed = true;
  }

  failExpected(what: string): void {
    const token = this.peek;
    const open = this.#open.at(-1);
    if (token.kind === 'bad') {
      if (token.problem === 'string')
        this.fail(say.unclosedString(), token, [
          { title: 'Close the text', edits: [{ from: token.to, to: token.to, insert: '"' }] },
        ]);
      else if (token.problem === 'color') this.fail(say.badColor(token.text), token);
      else
        this.fail(say.badCharacter(token.text), token, [
          { title: 'Remove it', edits: [{ from: token.from, to: token.to, insert: '' }] },
        ]);
    } else if (open && (token.kind === 'newline' || token.kind === 'end')) {
      this.#failUnclosed(open);
    } else if (token.text === ')' || token.text === '}') {
      if (open && CLOSERS[open.text] === token.text) this.fail(say.expected(what, `'${token.text}'`), token);
      else
        this.fail(say.strayBracket(token.text), token, [
          { title: 'Remove it', edits: [{ from: token.from, to: token.to, insert: '' }] },
        ]);
    } else {
      const here =
        token.kind === 'newline' || token.kind === 'end'
          ? { from: this.last, to: Math.max(token.from, this.last) }
          : token;
      const got = here === token ? (token.kind === 'string' ? token.text : `'${token.text}'`) : 'the end of the line';
      this.fail(
        say.expected(what, got),
        here.to > here.from ? here : { from: Math.max(0, here.from - 1), to: here.from },
      );
    }
  }

  #failUnclosed(open: Token): void {
    const close = CLOSERS[open.text] ?? ')';
    const at = this.last;
    this.fail(say.unclosedBracket(open.text, close), open, [
      { title: `Add '${close}'`, edits: [{ from: at, to: at, insert: close }] },
    ]);
  }

  expect(text: string, what = `'${text}'`): Token | undefined {
    const token = this.takeIf(text);
    if (!token) this.failExpected(what);
    return token;
  }

  identifier(what: string): Identifier | undefined {
    const token = this.peek;
    if (token.kind !== 'name') {
      this.failExpected(what);
      return undefined;
    }
    if (token.text === 'on' || token.text === 'off') {
      this.fail(say.reservedName(token.text), token);
      return undefined;
    }
    this.take();
    return { name: token.text, from: token.from, to: token.to };
  }

  /** Reads what stands between a bracket and its closer; tells the brackets apart for recovery. */
  within<T>(open: Token, read: () => T): T {
    this.#open.push(open);
    const result = read();
    const close = CLOSERS[open.text] ?? ')';
    if (open.text === '{') {
      this.blank();
      if (!this.is(close) && this.leavesBraces()) this.#failUnclosed(open);
    }
    if (!this.#failed) this.expect(close, `',' or '${close}'`);
    else if (this.is(close)) this.take();
    this.#open.pop();
    return result;
  }

  /** Skips line ends; used inside braces, where lines part entries. */
  blank(): void {
    this.#at = this.#significant(this.#at);
  }

  get braced(): boolean {
    return this.#open.some((t) => t.text === '{');
  }

  /** Inside braces: whether the next line can only stand outside them. */
  leavesBraces(): boolean {
    const i = this.#significant(this.#at);
    const token = this.#token(i);
    return (
      token.kind === 'end' || (this.#beginsStatement(i) && this.#token(i + 1).text !== '=' && token.text !== 'off')
    );
  }

  /** Moves to the next statement; false at the end of the text. */
  toStatement(): boolean {
    this.#open.length = 0;
    this.#failed = false;
    this.#at = this.#significant(this.#at);
    return this.#token(this.#at).kind !== 'end';
  }

  /** After an error: on to the end of the statement, over what open brackets still hold. */
  recover(): void {
    let depth = this.#open.filter((t) => t.text === '(').length;
    for (;;) {
      const token = this.#token(this.#at);
      if (token.kind === 'end') return;
      if (token.kind === 'newline') {
        const i = this.#significant(this.#at + 1);
        const goesOn =
          this.#token(i).text === '|>' || (depth > 0 && this.#token(i).kind !== 'end' && !this.#beginsStatement(i));
        if (!goesOn) return;
      }
      if (token.text === '(') depth++;
      if (token.text === ')') depth--;
      if (token.text === '}' && this.braced) return;
      this.#at++;
    }
  }
}
