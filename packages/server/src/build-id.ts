import { readFileSync } from 'node:fs';

/** Of what sources this was built, as SHA-256; `sources` where it runs from them, as tests do. */
export function buildId(): string {
  try {
    return readFileSync(new URL('./build-id.txt', import.meta.url), 'utf8').trim();
  } catch {
    return 'sources';
  }
}
