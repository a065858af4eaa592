import { AxeBuilder } from '@axe-core/playwright';
import { glbOf } from '@estela/codecs/mesh';
import type { MeshData } from '@estela/core';
import { copyFile, mkdtemp, rm } from 'node:fs/promises';
import { readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test as base, type BrowserContext, type Locator, type Page } from '@playwright/test';
import { PNG } from 'pngjs';
import { PORT } from '../demo-data.ts';
import { startServer } from '../server.ts';

export interface Picture {
  readonly width: number;
  readonly height: number;
  readonly data: Buffer;
}

/**
 * Milliseconds by which every answer of the server and every word to a worker is late: with 500, tests that take them
 * to be quick fail.
 */
const LATE = Number(process.env.ESTELA_TEST_LATE ?? 0);
function makeLate(by: number): void {
  const ask = window.fetch.bind(window);
  const post = Object.getOwnPropertyDescriptor(Worker.prototype, 'postMessage')!.value as (
    this: Worker,
    ...words: unknown[]
  ) => void;
  Object.defineProperty(Worker.prototype, 'postMessage', {
    value(this: Worker, ...words: unknown[]) {
      setTimeout(() => {
        post.apply(this, words);
      }, by);
    },
  });
  window.fetch = async (...what) => {
    await new Promise((done) => setTimeout(done, by));
    return ask(...what);
  };
}

/**
 * Tests of the running application, each worker's on a server of its own; any error in the page's console fails them.
 */
export const test = base.extend<{ quietConsole: undefined }, { address: string }>({
  address: [
    async ({}, use, { parallelIndex }) => {
      const folder = await mkdtemp(join(tmpdir(), 'estela-e2e-'));
      await copyFile(join(process.env.ESTELA_TEST_DEMO!, 'estela.sqlite'), join(folder, 'estela.sqlite'));
      const server = await startServer(folder, PORT + parallelIndex);
      await use(server.address);
      await server.end();
      await rm(folder, { recursive: true, force: true });
    },
    { scope: 'worker' },
  ],
  baseURL: ({ address }, use) => use(address),
  quietConsole: [
    async ({ page }, use) => {
      if (LATE > 0) await page.addInitScript(makeLate, LATE);
      // The marks of a first visit are what one test is about.
      await page.addInitScript(() => {
        try {
          localStorage.setItem('estela.visited', JSON.stringify({ bench: true }));
        } catch {
          // Frames in a sandbox and pages without an address have no storage.
        }
      });
      const errors: string[] = [];
      page.on('pageerror', (error) => errors.push(error.message));
      page.on('console', (message) => {
        // A refused request is the browser's own line, and what some tests are about.
        if (message.type() === 'error' && !message.text().startsWith('Failed to load resource'))
          errors.push(message.text());
      });
      await use(undefined);
      expect(errors).toEqual([]);
      await removeOwnProject(page);
    },
    { auto: true },
  ],
});
export { expect };

/** What an element shows, as pixels. */
export async function pictureOf(element: Locator): Promise<Picture> {
  return PNG.sync.read(await element.screenshot());
}

/** Share of pixels that differ by more than a little between two pictures of one size. */
export function difference(a: Picture, b: Picture): number {
  expect([b.width, b.height]).toEqual([a.width, a.height]);
  let count = 0;
  for (let i = 0; i < a.data.length; i += 4)
    if ([0, 1, 2].some((c) => Math.abs(a.data[i + c]! - b.data[i + c]!) > 8)) count++;
  return count / (a.data.length / 4);
}

/** Middle of the bright pixels, in pixels. */
export function brightMiddle({ width, data }: Picture): { x: number; y: number; count: number } {
  let [x, y, count] = [0, 0, 0];
  for (let i = 0; i < data.length; i += 4) {
    if (data[i]! < 200) continue;
    x += (i / 4) % width;
    y += Math.floor(i / 4 / width);
    count++;
  }
  return { x: x / count, y: y / count, count };
}

export const stage = (page: Page): Locator => page.getByRole('img', { name: 'The material' });
export const score = (page: Page): Locator => page.getByRole('textbox', { name: 'Text of the material' });

/** Drops files on an element. */
export const dropOn = (
  target: Locator,
  files: readonly { readonly name: string; readonly bytes: Buffer }[],
): Promise<void> =>
  target.evaluate(
    (element, all) => {
      const transfer = new DataTransfer();
      for (const { name, base64 } of all)
        transfer.items.add(new File([Uint8Array.from(atob(base64), (c) => c.charCodeAt(0))], name));
      element.dispatchEvent(new DragEvent('drop', { dataTransfer: transfer, bubbles: true, cancelable: true }));
    },
    files.map(({ name, bytes }) => ({ name, base64: bytes.toString('base64') })),
  );

interface Listed {
  readonly id: string;
  readonly name: string;
  readonly title: string;
}
interface ListedSource extends Listed {
  readonly hash: string;
  readonly recipe: object | null;
}
const list = async <T extends Listed>(page: Page, address: string): Promise<T[]> =>
  (await (await page.request.get(`/api/projects${address}`)).json()) as T[];

/** The id of the demo project. */
export const demoId = async (page: Page): Promise<string> =>
  (await list(page, '')).find((p) => p.name === 'Glasshouse Nine')!.id;

/** The id of something in the demo, by its name or title. */
export async function demoPart(page: Page, kind: 'materials' | 'sources' | 'sets', name: string): Promise<string> {
  return (await list(page, `/${await demoId(page)}/${kind}`)).find(
    (part) => name === (kind === 'materials' ? part.title : part.name),
  )!.id;
}

const own = new WeakMap<BrowserContext, Promise<string>>();
/** The id of the project that a test has to itself; it is made when it is first asked for, and goes with the test. */
export function projectId(page: Page): Promise<string> {
  const made = own.get(page.context()) ?? post(page, '/api/projects', { name: 'Own' });
  own.set(page.context(), made);
  return made;
}
async function removeOwnProject(page: Page): Promise<void> {
  const made = await own.get(page.context());
  if (made !== undefined) await page.request.delete(`/api/projects/${made}`, { headers: { 'if-match': '*' } });
}
async function post(page: Page, address: string, data: object): Promise<string> {
  const answer = await page.request.post(address, { data, maxRetries: 1 });
  expect(answer.status()).toBe(201);
  return ((await answer.json()) as { id: string }).id;
}

/** Takes pictures of the demo over into the test's own project, where they are not there yet. */
export async function takeOver(page: Page, names: readonly string[]): Promise<void> {
  if (names.length === 0) return;
  const project = await projectId(page);
  const here = await list(page, `/${project}/sources`);
  for (const { name, hash, recipe } of await list<ListedSource>(page, `/${await demoId(page)}/sources`)) {
    if (!names.includes(name) || here.some((s) => s.name === name)) continue;
    const multipart = { name, hash, recipe: JSON.stringify(recipe) };
    expect((await page.request.post(`/api/projects/${project}/sources`, { multipart, maxRetries: 1 })).status()).toBe(
      201,
    );
  }
}

/** Stores a mesh in the test's own project. */
export async function storeMesh(page: Page, name: string, mesh: MeshData): Promise<string> {
  const file = { name: 'file', mimeType: 'model/gltf-binary', buffer: Buffer.from(await glbOf(mesh, name)) };
  const answer = await page.request.post(`/api/projects/${await projectId(page)}/meshes`, {
    multipart: { name, file },
    maxRetries: 1,
  });
  expect(answer.status()).toBe(201);
  return ((await answer.json()) as { id: string }).id;
}

/** Makes a material with this text in the test's own project, with the pictures of the demo that it names. */
export async function makeMaterial(page: Page, text: string): Promise<string> {
  await takeOver(
    page,
    [...text.matchAll(/^image \w+ = "([^"]+)"/gm)].map(([, name]) => name!),
  );
  return post(page, `/api/projects/${await projectId(page)}/materials`, { text });
}

/** Lets the settings of a material stand open, as if they had been left so. */
const unfold = (page: Page, material: string): Promise<unknown> =>
  page.addInitScript((id) => {
    if (location.protocol !== 'http:' || window.top !== window) return;
    const { ids = [] } = JSON.parse(localStorage.getItem('estela.unfolded') ?? '{}') as { ids?: string[] };
    if (!ids.includes(id)) localStorage.setItem('estela.unfolded', JSON.stringify({ ids: [...ids, id] }));
  }, material);

/** Opens a tab of the panel under the Stage. */
export const openTab = (page: Page, name: 'Dials' | 'Step' | 'Sources' | 'Checks' | 'Probe' | 'Bake'): Promise<void> =>
  page.getByRole('tab', { name: new RegExp(`^${name}`) }).click();

/**
 * Makes a material and opens it on the Bench; `view` is what its address goes on with. All of its text is in sight, but
 * where the settings are to stand folded, as they do at first.
 */
export async function openMaterial(page: Page, text: string, view = '', folded = false): Promise<string> {
  const id = await makeMaterial(page, text);
  if (!folded) await unfold(page, id);
  await page.goto(`/materials/${id}${view}`);
  await expect(score(page)).toBeVisible();
  return id;
}

/** Opens a copy of a material of the demo on the Bench, by the name of its file. */
export const openDemo = (page: Page, name: string): Promise<string> =>
  openMaterial(page, readFileSync(join(import.meta.dirname, '../../../demo/materials', `${name}.wake`), 'utf8'));

/** Puts a text in place of all that is in the Score. */
export async function writeAll(page: Page, text: string): Promise<void> {
  await score(page).click();
  await page.keyboard.press('Control+a');
  await page.keyboard.insertText(text);
}

/** Pauses at a frame, counted from 0. */
export async function goToFrame(page: Page, frame: number): Promise<void> {
  const pause = page.getByRole('button', { name: 'Pause', exact: true });
  if (await pause.isVisible()) await pause.click();
  await page.getByRole('slider', { name: 'Frame' }).fill(String(frame));
  await expect(page.getByRole('group', { name: 'Time in the loop' })).toContainText(
    new RegExp(`frame +${String(frame)}/`),
  );
  // Two frames of the page, so that what is asked for is on the screen.
  await page.evaluate(() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))));
}

export const saved = (page: Page): Locator => page.getByRole('status', { name: 'Saving' });

/** No fault that axe knows of, by the rules of WCAG 2.2 A and AA. */
export async function expectAccessible(page: Page): Promise<void> {
  // What is still fading in has not its own contrast yet, so a fault must stay to count.
  await expect(async () => {
    const { violations } = await new AxeBuilder({ page })
      .withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'])
      .analyze();
    expect(violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.target.join(' ')).join(', ')}`)).toEqual([]);
  }).toPass({ timeout: 60_000 });
}

/** The server does not take what is saved until the function given is called: nothing that is under way is left hanging. */
export async function serverAway(page: Page): Promise<() => void> {
  let away = true;
  await page.route('**/api/**', (route) =>
    away && route.request().method() === 'PUT' ? route.abort() : route.continue(),
  );
  return () => {
    away = false;
  };
}

/** A page, or all of a context, that is told nothing of what others do, as while its connection is away. */
export const isolate = (of: Page | BrowserContext): Promise<unknown> =>
  of.addInitScript(() => {
    window.EventSource = class extends EventTarget {
      close(): void {
        // Nothing was opened.
      }
    } as unknown as typeof EventSource;
  });
