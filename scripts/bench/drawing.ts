import { readFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { chromium, type Page } from '@playwright/test';
import type * as Drawing from './page.ts';
import { chain, HEAVY } from './materials.ts';
import { stageShaders } from './stage.ts';
import { pairOf, type Pair } from './timing.ts';

const FRAMES = 24;

/** Frames of a heavy material in two workers, a share each. */
class Bake {
  private constructor(readonly workers: readonly Worker[]) {}

  static async begin(root: string, size: number): Promise<Bake> {
    const times = Array.from({ length: FRAMES }, (_, i) => i / 30);
    const workers = [0, 1].map(
      (which) =>
        new Worker(join(root, '.cache/bench/worker.js'), {
          workerData: { text: HEAVY, size, times: times.filter((_, i) => i % 2 === which) },
        }),
    );
    const bake = new Bake(workers);
    await bake.#told('ready');
    return bake;
  }

  #told(word: string): Promise<unknown> {
    return Promise.all(
      this.workers.map(
        (worker) =>
          new Promise<void>((resolve) => {
            const hear = (said: unknown): void => {
              if (said !== word) return;
              worker.off('message', hear);
              resolve();
            };
            worker.on('message', hear);
          }),
      ),
    );
  }

  /** Milliseconds a frame. */
  async time(): Promise<number> {
    const done = this.#told('done');
    const start = performance.now();
    for (const worker of this.workers) worker.postMessage('go');
    await done;
    return (performance.now() - start) / FRAMES;
  }

  async end(): Promise<void> {
    await Promise.all(this.workers.map((worker) => worker.terminate()));
  }
}

export interface DrawingTimes {
  /** A heavy frame drawn and read back in Chromium's software WebGL 2, against a bake of it, by the side in pixels. */
  readonly heavy: ReadonlyMap<number, Pair>;
  /** The same drawing without shifts, as the Stage does it there, milliseconds. */
  readonly heavyOnStage: number;
  /** The front end for 60 steps, and the driver's compile and link, milliseconds. */
  readonly front: number;
  readonly driver: number;
  /** A frame of each demo material on software WebGL, against the state before. */
  readonly stage: readonly (Pair & { readonly material: string })[];
}

type InPage = typeof Drawing;
/** Calls one of the page's functions. */
async function inPage<Name extends 'drawTime' | 'frontEndAndDriver' | 'shaderTimes'>(
  page: Page,
  name: Name,
  ...args: Parameters<InPage[Name]>
): Promise<ReturnType<InPage[Name]>> {
  return page.evaluate(
    ([which, given]) =>
      (window as unknown as { bench: Record<string, (...all: unknown[]) => never> }).bench[which]!(...given),
    [name, args] as const,
  );
}

/** What is drawn in a browser, turn by turn with what it is held against. */
export async function drawingTimes(root: string): Promise<DrawingTimes> {
  const server = createServer((_, response) =>
    response.setHeader('content-type', 'text/html').end('<!doctype html><title>bench</title>'),
  );
  await new Promise<void>((ready) => server.listen(0, '127.0.0.1', ready));
  const { port } = server.address() as { port: number };
  const args = JSON.parse(readFileSync(join(root, 'scripts/chromium-flags.json'), 'utf8')) as string[];
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args });
  try {
    const page = await browser.newPage();
    await page.goto(`http://127.0.0.1:${String(port)}/`);
    await page.addScriptTag({ content: readFileSync(join(root, '.cache/bench/page/page.js'), 'utf8') });
    const heavy = new Map<number, Pair>();
    for (const size of [256, 512]) {
      const bake = await Bake.begin(root, size);
      const turns: [number, number][] = [];
      for (let turn = 0; turn < 7; turn++)
        turns.push([await inPage(page, 'drawTime', HEAVY, size, 10), await bake.time()]);
      await bake.end();
      heavy.set(size, pairOf(turns.slice(1)));
    }
    const heavyOnStage = await inPage(page, 'drawTime', HEAVY, 256, 20, true);
    const { front, driver } = await inPage(page, 'frontEndAndDriver', chain(60), 25);
    const stage: (Pair & { material: string })[] = [];
    for (const { material, now, before } of await stageShaders(root)) {
      const [own, other] = (await inPage(page, 'shaderTimes', [now, before], 512, 7)) as [number[], number[]];
      stage.push({ material, ...pairOf(own.map((time, i) => [time, other[i]!])) });
    }
    return { heavy, heavyOnStage, front, driver, stage };
  } finally {
    await browser.close();
    server.close();
  }
}
