import { AxeBuilder } from '@axe-core/playwright';
import { glbOf } from '@estela/codecs/mesh';
import type { MeshData } from '@estela/core';
import { expect, test as base, type Locator, type Page } from '@playwright/test';
import { PNG } from 'pngjs';

export interface Picture {
  readonly width: number;
  readonly height: number;
  readonly data: Buffer;
}

/** Milliseconds by which every answer of the server and every word to a worker is late: with 500, tests that take them to be quick fail. */
const LATE = Number(process.env.ESTELA_TEST_LATE ?? 0);
function makeLate(by: number): void {
  const ask = window.fetch.bind(window);
  const post = Object.getOwnPropertyDescriptor(Worker.prototype, 'postMessage')!.value as (this: Worker, ...words: unknown[]) => void;
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

/** Tests of the running application; any error in the page's console fails them. */
export const test = base.extend<{ quietConsole: undefined }>({
  quietConsole: [
    async ({ page }, use) => {
      if (LATE > 0) await page.addInitScript(makeLate, LATE);
      const errors: string[] = [];
      page.on('pageerror', (error) => errors.push(error.message));
      page.on('console', (message) => {
        // A refused request is the browser's own line, and what some tests are about.
        if (message.type() === 'error' && !message.text().startsWith('Failed to load resource')) errors.push(message.text());
      });
      await use(undefined);
      expect(errors).toEqual([]);
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
  for (let i = 0; i < a.data.length; i += 4) if ([0, 1, 2].some((c) => Math.abs(a.data[i + c]! - b.data[i + c]!) > 8)) count++;
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
export const dropOn = (target: Locator, files: readonly { readonly name: string; readonly bytes: Buffer }[]): Promise<void> =>
  target.evaluate(
    (element, all) => {
      const transfer = new DataTransfer();
      for (const { name, base64 } of all) transfer.items.add(new File([Uint8Array.from(atob(base64), (c) => c.charCodeAt(0))], name));
      element.dispatchEvent(new DragEvent('drop', { dataTransfer: transfer, bubbles: true, cancelable: true }));
    },
    files.map(({ name, bytes }) => ({ name, base64: bytes.toString('base64') })),
  );

/** The id of the demo project. */
export async function projectId(page: Page): Promise<string> {
  const [project] = (await (await page.request.get('/api/projects')).json()) as { id: string }[];
  return project!.id;
}

/** Stores a mesh in the demo project. */
export async function storeMesh(page: Page, name: string, mesh: MeshData): Promise<string> {
  const file = { name: 'file', mimeType: 'model/gltf-binary', buffer: Buffer.from(await glbOf(mesh, name)) };
  const answer = await page.request.post(`/api/projects/${await projectId(page)}/meshes`, { multipart: { name, file } });
  expect(answer.status()).toBe(201);
  return ((await answer.json()) as { id: string }).id;
}

/** Makes a material with this text in the demo project and opens it on the Bench. */
export async function openMaterial(page: Page, text: string): Promise<string> {
  const { id } = (await (await page.request.post(`/api/projects/${await projectId(page)}/materials`, { data: { text } })).json()) as { id: string };
  await page.goto(`/materials/${id}`);
  await expect(score(page)).toBeVisible();
  return id;
}

export async function openDemo(page: Page, title: string): Promise<void> {
  await page.goto('/');
  await page.getByRole('link', { name: `Open ${title}` }).click();
  await expect(score(page)).toBeVisible();
}

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
  await expect(page.getByRole('group', { name: 'Time in the loop' })).toContainText(new RegExp(`frame +${String(frame)}/`));
  // Two frames of the page, so that what is asked for is on the screen.
  await page.evaluate(() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))));
}

export const saved = (page: Page): Locator => page.getByRole('status', { name: 'Saving' });

/** No fault that axe knows of, by the rules of WCAG 2.2 A and AA. */
export async function expectAccessible(page: Page): Promise<void> {
  // What is still fading in has not its own contrast yet, so a fault must stay to count.
  await expect(async () => {
    const { violations } = await new AxeBuilder({ page }).withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']).analyze();
    expect(violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.target.join(' ')).join(', ')}`)).toEqual([]);
  }).toPass({ timeout: 20_000 });
}
