import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';

/**
 * Kilobytes of JavaScript, gzipped, that the Bench loads before its Stage draws: the entry, the Bench, and all they
 * import outright.
 */
export function firstPaintSize(dist: string): number {
  const html = readFileSync(join(dist, 'index.html'), 'utf8');
  const assets = join(dist, 'assets');
  const bench = readdirSync(assets).find((f) => /^BenchPage-.*\.js$/.test(f))!;
  const wanted = [/src="\/assets\/([^"]+\.js)"/.exec(html)![1]!, bench];
  const seen = new Set<string>();
  let bytes = 0;
  for (let name = wanted.pop(); name !== undefined; name = wanted.pop()) {
    if (seen.has(name)) continue;
    seen.add(name);
    const text = readFileSync(join(assets, name), 'utf8');
    bytes += gzipSync(text, { level: 9 }).length;
    for (const [, other = ''] of text.matchAll(/(?:from|import)\s*["']\.\/([^"']+\.js)["']/g)) wanted.push(other);
  }
  return bytes / 1024;
}
