import { matchMissing, stale } from './problem.ts';

/** A strong ETag of a counter. */
export const etag = (version: number): string => `"${String(version)}"`;

/**
 * Throws unless `If-Match` names the current version. What is stored already can be saved again whatever is named:
 * whoever did not get the answer to a save asks once more.
 */
export function requireMatch(header: string | undefined, current: number, what: string, isStored = false): void {
  if (header === undefined) throw matchMissing();
  const named = header.split(',').map((tag) => tag.trim());
  if (!named.includes(etag(current)) && !named.includes('*') && !isStored) throw stale(what, current);
}
