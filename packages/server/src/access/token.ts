import { createHash, createHmac, randomBytes, timingSafeEqual } from 'node:crypto';
import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';

/** What is kept of a token: its SHA-256, in hex. */
export const hashOf = (token: string): string => createHash('sha256').update(token).digest('hex');

/** What a browser that has shown the token holds in its cookie; another token makes another. */
export const cookieOf = (tokenHash: string): string =>
  createHmac('sha256', tokenHash).update('estela cookie').digest('base64url');

/** Whether two texts are the same, in a time that tells nothing of where they differ. */
export const isSame = (a: string, b: string): boolean =>
  timingSafeEqual(createHash('sha256').update(a).digest(), createHash('sha256').update(b).digest());

/**
 * The hash of the token that is asked for: of the one given, else of the one that was made at an earlier start, else of
 * a new one, which `tell` is told this once.
 */
export async function tokenHashFor(
  folder: string,
  given: string | undefined,
  tell: (token: string) => void,
): Promise<string> {
  if (given !== undefined) return hashOf(given);
  const file = join(folder, 'access.json');
  const kept = await readFile(file, 'utf8').then(
    (text) => (JSON.parse(text) as { readonly tokenHash?: unknown }).tokenHash,
    () => undefined,
  );
  if (typeof kept === 'string' && /^[0-9a-f]{64}$/.test(kept)) return kept;
  const token = randomBytes(24).toString('base64url');
  await writeFile(file, `${JSON.stringify({ tokenHash: hashOf(token) })}\n`, { mode: 0o600 });
  tell(token);
  return hashOf(token);
}
