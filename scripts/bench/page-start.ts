import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Browser } from '@playwright/test';
import { startServer } from '../../packages/e2e/server.ts';
import { median, pairOf, type Pair } from './timing.ts';

const PORT = 4619;
const MATERIAL = 'Petal ward';

/** What a browser with nothing in its cache does before the Stage of a material draws for the first time. */
export interface PageStart {
  /** Kilobytes as they come over the wire, by kind; pictures and answers of the API are among the others. */
  readonly scripts: number;
  readonly fonts: number;
  readonly others: number;
  readonly files: number;
  /** Milliseconds of the longest task before the first picture; the median of several starts. */
  readonly longest: number;
  /** Milliseconds to the first picture, and of a page that only compiles its shader and draws with it. */
  readonly first: Pair;
}

interface Watched {
  first?: number;
  /** Sources of all shaders so far, as they were given to the driver. */
  readonly shaders: string[];
  readonly tasks: { readonly start: number; readonly took: number }[];
}

/** Runs in the page before anything of it does. */
function watch(): void {
  const watched: Watched = { shaders: [], tasks: [] };
  Object.assign(window, { watched });
  const gl = WebGL2RenderingContext.prototype as unknown as Record<string, (...how: unknown[]) => void>;
  for (const name of ['drawArrays', 'drawElements', 'drawArraysInstanced', 'drawElementsInstanced']) {
    const draw = gl[name]!;
    gl[name] = function (this: WebGL2RenderingContext, ...how) {
      // The Stage's canvas stands in the page; others are worked with beside it.
      if ((this.canvas as HTMLCanvasElement).isConnected) watched.first ??= performance.now();
      draw.apply(this, how);
    };
  }
  const give = gl.shaderSource!;
  gl.shaderSource = function (this: WebGL2RenderingContext, shader, source) {
    if (watched.first === undefined) watched.shaders.push(source as string);
    give.call(this, shader, source);
  };
  new PerformanceObserver((list) => {
    for (const { startTime, duration } of list.getEntries()) watched.tasks.push({ start: startTime, took: duration });
  }).observe({ type: 'longtask', buffered: true });
}

/** Runs in the page once the Stage has drawn. */
function read(): Omit<PageStart, 'first'> & { readonly first: number; readonly shaders: readonly string[] } {
  const { first = 0, tasks, shaders } = (window as unknown as { watched: Watched }).watched;
  const fetched = [
    ...performance.getEntriesByType('navigation'),
    ...performance.getEntriesByType('resource'),
  ] as PerformanceResourceTiming[];
  const before = fetched.filter((e) => e.responseEnd > 0 && e.responseEnd <= first);
  const sum = (kind: RegExp): number =>
    before.filter((e) => kind.test(new URL(e.name).pathname)).reduce((all, e) => all + e.encodedBodySize, 0) / 1000;
  const [scripts, fonts] = [sum(/\.js$/), sum(/\.woff2$/)];
  return {
    scripts,
    fonts,
    others: sum(/./) - scripts - fonts,
    files: before.length,
    first,
    // Of the task that draws, what comes before it draws.
    longest: Math.max(0, ...tasks.filter((t) => t.start < first).map((t) => Math.min(t.took, first - t.start))),
    shaders,
  };
}

/** A page with nothing but a canvas, and a shader that is compiled and drawn with at once. */
const barePage = (
  vertex: string,
  fragment: string,
): string => `<!doctype html><canvas width="640" height="340"></canvas>
<script>
const gl = document.querySelector('canvas').getContext('webgl2');
const program = gl.createProgram();
for (const [type, source] of ${JSON.stringify([vertex, fragment].map((s, i) => [35633 - i, s]))}) {
  const shader = gl.createShader(type);
  gl.shaderSource(shader, source);
  gl.compileShader(shader);
  gl.attachShader(program, shader);
}
gl.linkProgram(program);
if (!gl.getProgramParameter(program, gl.LINK_STATUS)) throw new Error(gl.getProgramInfoLog(program));
gl.useProgram(program);
window.watched = { first: performance.now() };
gl.drawArrays(gl.TRIANGLES, 0, 3);
</script>`;

async function bareOnce(browser: Browser, base: string, shaders: readonly string[]): Promise<number> {
  // The material's is the longest; its vertex shader was given before it.
  const at = shaders.reduce((best, s, i) => (s.length > shaders[best]!.length ? i : best), 0);
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  const page = await context.newPage();
  await page.route(`${base}/bare`, (route) =>
    route.fulfill({
      contentType: 'text/html',
      body: barePage(shaders[at - 1]!, shaders[at]!),
      // As the application has them: a browser starts a process for a page that is kept from others.
      headers: { 'cross-origin-opener-policy': 'same-origin', 'cross-origin-embedder-policy': 'require-corp' },
    }),
  );
  await page.goto(`${base}/bare`);
  const first = await page.evaluate(() => (window as unknown as { watched: Watched }).watched.first!);
  await context.close();
  return first;
}

async function startOnce(browser: Browser, address: string): Promise<ReturnType<typeof read>> {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  const page = await context.newPage();
  await page.addInitScript(watch);
  await page.goto(address);
  await page.waitForFunction(() => (window as unknown as { watched: Watched }).watched.first !== undefined);
  const start = await page.evaluate(read);
  await context.close();
  return start;
}

/** Opens a material of the demo on the built server, several times, each as for the first time. */
export async function pageStart(root: string, browser: Browser, turns = 15): Promise<PageStart> {
  const data = mkdtempSync(join(tmpdir(), 'estela-bench-'));
  const server = await startServer(data, PORT, join(root, 'packages/server/dist/main.js'));
  try {
    const base = server.address;
    const [project] = (await (await fetch(`${base}/api/projects`)).json()) as { id: string }[];
    const materials = (await (await fetch(`${base}/api/projects/${project!.id}/materials`)).json()) as {
      id: string;
      title: string;
    }[];
    const { id } = materials.find((m) => m.title === MATERIAL)!;
    const starts: Awaited<ReturnType<typeof startOnce>>[] = [];
    const firsts: [number, number][] = [];
    for (let i = 0; i < turns; i++) {
      const start = await startOnce(browser, `${base}/materials/${id}`);
      starts.push(start);
      firsts.push([start.first, await bareOnce(browser, base, start.shaders)]);
    }
    return {
      ...starts[0]!,
      first: pairOf(firsts),
      longest: median(starts.map((s) => s.longest)),
    };
  } finally {
    await server.end();
    rmSync(data, { recursive: true, force: true });
  }
}
