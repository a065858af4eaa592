import { SetMetadata, type CustomDecorator } from '@nestjs/common';
import type { Request } from 'express';
import { tooLarge } from './problem.ts';

/** What names that a handler takes bytes. */
export const BYTES = 'takes bytes';
/** Marks a handler whose body is bytes, which it reads itself. */
export const TakesBytes = (): CustomDecorator => SetMetadata(BYTES, true);

/** Most bodies that are read at once: the others wait unread, and whoever sends them with them. */
const AT_ONCE = 32;

let free = AT_ONCE;
const waiting: (() => void)[] = [];

/** Does something with a body in memory, when its turn comes. */
export async function inTurn<T>(act: () => Promise<T>): Promise<T> {
  if (free > 0) free--;
  else await new Promise<void>((go) => waiting.push(go));
  try {
    return await act();
  } finally {
    const next = waiting.shift();
    if (next) next();
    else free++;
  }
}

/** Reads a body of bytes. Throws a Problem where it is longer than that. */
export async function bytesOf(request: Request, most: number): Promise<Buffer> {
  const parts: Buffer[] = [];
  let size = 0;
  // What is too much goes by unread: who sends it can only then read the answer.
  for await (const part of request.iterator({ destroyOnReturn: false }) as AsyncIterable<Buffer>) {
    size += part.length;
    if (size > most) throw tooLarge();
    parts.push(part);
  }
  return Buffer.concat(parts);
}
