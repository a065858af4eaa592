import { matchMissing, stale } from './problem.ts';

/** A strong ETag of a counter. */
export const etag = (version: number): string => `"${String(version)}"`;

/** Throws unless `If-Match` names the current version. */
export function requireMatch(header: string | undefined, current: number, what: string): void {
  if (header === undefined) throw matchMissing();
  const named = header.split(',').map((tag) => tag.trim());
  if (!named.includes(etag(current)) && !named.includes('*')) throw stale(what, current);
}
