import type { Request, Response } from 'express';
import { pipeline } from 'node:stream/promises';

/** Bytes that never change, by their hash. */
export interface Content {
  /** SHA-256, in hex. */
  readonly hash: string;
  readonly mime: string;
  /** Length in bytes. */
  readonly size: number;
  /** The bytes from the first to the last, both included. */
  readonly read: (first: number, last: number) => AsyncIterable<Buffer>;
}

/** One range of bytes that is asked for, the last included; undefined where none, or several, are. */
function rangeOf(
  header: string | undefined,
  size: number,
): readonly [first: number, last: number] | 'none' | undefined {
  const [, first = '', last = ''] = /^bytes=(\d*)-(\d*)$/.exec(header ?? '') ?? [];
  if (first === '' && last === '') return undefined;
  const range =
    first === ''
      ? ([Math.max(0, size - Number(last)), size - 1] as const)
      : ([Number(first), last === '' ? size - 1 : Math.min(Number(last), size - 1)] as const);
  return range[0] <= range[1] && range[0] < size ? range : 'none';
}

/**
 * Sends bytes under their hash: what the browser has already, and a HEAD, is answered without reading them. An address
 * that names the hash (`?v=`) may be kept for ever.
 */
export async function sendContent(request: Request, response: Response, content: Content): Promise<void> {
  const { hash, mime, size, read } = content;
  const tag = `"${hash}"`;
  const named = typeof request.query.v === 'string' && request.query.v.length >= 8 && hash.startsWith(request.query.v);
  response
    .setHeader('ETag', tag)
    .setHeader('Cache-Control', named ? 'private, max-age=31536000, immutable, no-transform' : 'no-cache, no-transform')
    .setHeader('Accept-Ranges', 'bytes');
  const known = request.headers['if-none-match'];
  if (known?.split(',').some((t) => t.trim().replace(/^W\//, '') === tag)) {
    response.status(304).end();
    return;
  }
  // A range of another version than that which was begun is no use: all of it is sent.
  const { 'if-range': of } = request.headers;
  const range = of === undefined || of === tag ? rangeOf(request.headers.range, size) : undefined;
  if (range === 'none') {
    response
      .status(416)
      .setHeader('Content-Range', `bytes */${String(size)}`)
      .end();
    return;
  }
  const [first, last] = range ?? [0, size - 1];
  response.type(mime).setHeader('Content-Length', last - first + 1);
  if (range) response.status(206).setHeader('Content-Range', `bytes ${String(first)}-${String(last)}/${String(size)}`);
  if (request.method === 'HEAD') response.end();
  else await pipeline(read(first, last), response);
}
