import type { Node } from '../../ir/node.ts';
import { atom, within } from './body.ts';
import type { Components, HostDialect, Term } from './dialect.ts';

export type Context = Parameters<HostDialect['expressions']['fract']>[2];

/** A call of a function of the language. */
export const call =
  (name: string) =>
  (_: Node, args: Components): Term =>
    atom(`${name}(${args.map((a) => a.text).join(', ')})`);
/** A call of a helper with the first operands. */
export const helper =
  (name: string, operands = 9) =>
  (_: Node, args: Components, c: Context): Term =>
    atom(
      `${c.helper(name)}(${args
        .slice(0, operands)
        .map((a) => a.text)
        .join(', ')})`,
    );
export const infix =
  (operator: string, level: number) =>
  (_: Node, [a, b]: Components): Term => ({
    text: `${within(a, Math.max(level, 1))} ${operator} ${within(b, level + 1)}`,
    level,
  });
