import type { Page } from '@playwright/test';
import { shapeMesh } from '@estela/core';
import { demoId, demoPart, expect, expectAccessible, projectId, storeMesh, test } from './support.ts';

/** Each main view, by its address among the demo's, and what stands in it once it is there. */
const VIEWS: readonly (readonly [name: string, address: (page: Page) => Promise<string>, there: string])[] = [
  ['Shelf', () => Promise.resolve('/'), 'link'],
  ['Bench', async (page) => `/materials/${await demoPart(page, 'materials', 'Guide lamps')}`, 'textbox'],
  ['Export', async (page) => `/materials/${await demoPart(page, 'materials', 'Guide lamps')}/export`, 'button'],
  ['Sources', async (page) => `/projects/${await demoId(page)}/sources`, 'link'],
  [
    'a source',
    async (page) => `/projects/${await demoId(page)}/sources/${await demoPart(page, 'sources', 'fern-masks.png')}`,
    'button',
  ],
  ['Sets', async (page) => `/projects/${await demoId(page)}/sets`, 'link'],
  [
    'a set',
    async (page) => `/projects/${await demoId(page)}/sets/${await demoPart(page, 'sets', 'Two spore shells')}`,
    'button',
  ],
  [
    'Fit',
    async (page) =>
      `/projects/${await projectId(page)}/meshes/${await storeMesh(page, 'ribbon', shapeMesh('ribbon', 8))}`,
    'button',
  ],
  ['Bakes', async (page) => `/projects/${await demoId(page)}/bakes`, 'button'],
];

/** Windows of 1280 x 800 and 1920 x 1080; and what is left of the first where text and all else is at 125 %. */
const WINDOWS = [
  [1280, 800],
  [1920, 1080],
  [1024, 640],
] as const;

/** Text that is cut off sideways with no dots, or with dots and no title to read it by. */
const cutOff = (page: Page): Promise<string[]> =>
  page.evaluate(() =>
    [...document.querySelectorAll<HTMLElement>('body *')].flatMap((element) => {
      const own = [...element.childNodes].filter((node) => node.nodeType === Node.TEXT_NODE);
      const text = own
        .map((node) => node.textContent ?? '')
        .join('')
        .trim();
      // What is for screen readers alone is a pixel wide; the text of a material scrolls.
      if (text === '' || element.clientWidth <= 1 || element.closest('.cm-editor, [aria-hidden=true]')) return [];
      const { overflowX, textOverflow } = getComputedStyle(element);
      const isCut = overflowX !== 'visible' && overflowX !== 'auto' && element.scrollWidth > element.clientWidth + 1;
      const isTold = textOverflow === 'ellipsis' && element.closest('[title], [aria-label]') !== null;
      return isCut && !isTold ? [text] : [];
    }),
  );

for (const [name, address, there] of VIEWS)
  test(`${name} is whole in every window, and open to all`, async ({ page }) => {
    await page.goto(await address(page));
    await expect(page.getByRole('banner').or(page.locator('header')).first()).toBeVisible();
    await expect(page.getByRole(there as 'button').first()).toBeVisible();
    await page.waitForLoadState('networkidle');
    for (const [width, height] of WINDOWS) {
      await page.setViewportSize({ width, height });
      await expect.poll(async () => [width, await cutOff(page)]).toEqual([width, []]);
      // Nothing stands beyond the window where it cannot be scrolled to.
      expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(width);
      await expectAccessible(page);
    }
  });
