import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import type { Locator, Page } from '@playwright/test';
import { Baker, check, compileOrThrow, parse } from '@estela/core';
import { PNG } from 'pngjs';
import { MOTION } from '../playwright.config.ts';
import {
  difference,
  expect,
  expectAccessible,
  goToFrame,
  openMaterial,
  openTab,
  pictureOf,
  projectId,
  saved,
  stage,
  test,
} from './support.ts';

const TEXT = `material "Slow fade"
loop 2s at 16fps
surface unlit blend two-sided
dial reach = 0.6 in 0..1

glow = uv |> pan(1 lap, heading: 90deg) |> fbm(3, octaves: 2)
out color = (glow, glow * reach, 0.4)
out opacity = glow
out roughness = 0.5
`;

const panel = (page: Page): Locator => page.getByRole('tabpanel', { name: 'Bake' });
const field = (page: Page, name: string): Locator => panel(page).getByRole('textbox', { name });

async function set(page: Page, name: string, value: number): Promise<void> {
  await field(page, name).fill(String(value));
  await field(page, name).press('Enter');
}

/** Frames of what TEXT puts out as colour, evenly spread, as they are baked. */
function frames(text: string, size: readonly [number, number], count: number, premultiply = false): Uint8Array[] {
  const program = check(parse(text));
  const options = { output: 'color', width: size[0], height: size[1], samples: 1, premultiply } as const;
  const baker = Baker.of(program, compileOrThrow(program).values, options, () => undefined)!;
  return Array.from({ length: count }, (_, i) => baker.frame((i * program.loop.frames) / count));
}

test('a sheet is set up, measured, baked while the page is gone, downloaded, and used as a source that knows when it is stale', async ({
  page,
}) => {
  const id = await openMaterial(page, TEXT);
  await page.getByRole('button', { name: 'Bake', exact: true }).click();
  await set(page, 'Width of a frame in pixels', 48);
  await set(page, 'Height of a frame in pixels', 32);
  await set(page, 'How many frames', 12);
  await expect(panel(page)).toContainText('192 x 96 px, 4 x 3 frames');
  await expect(panel(page)).toContainText('6 frames per second, a loop of 2 s');
  await expect(panel(page)).toContainText('memory 72.0 kB, as BC7 or ASTC 4x4 18.0 kB');
  // The grid shows the frames as they will be.
  const grid = panel(page).getByRole('img', { name: '12 frames, 4 across' });
  const first = frames(TEXT, [48, 32], 1)[0]!;
  await expect
    .poll(() =>
      grid.evaluate((canvas: HTMLCanvasElement) => [
        ...canvas.getContext('2d')!.getImageData(3 * 49 + 20, 2 * 33 + 16, 1, 1).data,
      ]),
    )
    .not.toEqual([0, 0, 0, 0]);
  const shown = await grid.evaluate((canvas: HTMLCanvasElement) => [
    ...canvas.getContext('2d')!.getImageData(20, 16, 1, 1).data,
  ]);
  // A canvas keeps colours multiplied by their alpha.
  shown.forEach((value, i) => {
    expect(Math.abs(value - first[(16 * 48 + 20) * 4 + i]!)).toBeLessThanOrEqual(2);
  });
  await expectAccessible(page);

  await panel(page).getByRole('button', { name: 'Measure' }).click();
  const table = panel(page).getByRole('table', { name: 'Differences, each frame held' });
  await expect(table).toBeVisible();
  const means = await table.getByRole('row', { name: /^mean/ }).getByRole('cell').allTextContents();
  expect(means).toHaveLength(6);
  expect(means.map(Number)).toEqual(means.map(Number).toSorted((a, b) => b - a));
  await field(page, 'Largest accepted mean difference').fill(means[3]!);
  await field(page, 'Largest accepted mean difference').press('Enter');
  await panel(page).getByRole('button', { name: 'Frames blended' }).last().click();
  const take = panel(page).getByRole('button', { name: /^Use \d+ frames$/ });
  await expect(take).toBeVisible();
  const fewer = Number(/\d+/.exec((await take.textContent())!)![0]);
  expect(fewer).toBeLessThan(32);
  await take.click();
  await expect(field(page, 'How many frames')).toHaveValue(String(fewer));
  await set(page, 'How many frames', 12);

  // Slow enough that the page can be gone in the middle.
  await set(page, 'Width of a frame in pixels', 192);
  await set(page, 'Height of a frame in pixels', 128);
  await set(page, 'How many frames', 24);
  await panel(page).getByRole('button', { name: 'More settings' }).click();
  await set(page, 'Samples per pixel side', 4);
  await panel(page).getByRole('button', { name: 'Start bake' }).click();
  await expect(panel(page).getByRole('progressbar', { name: /^Progress of Slow fade/ })).toBeVisible();
  await expect(page).toHaveTitle(/^\d+ % Slow fade - Estela$/);
  await page.reload();
  await openTab(page, 'Bake');
  const baked = panel(page).getByRole('region', { name: 'Baked' });
  await expect(baked).toContainText('24 frames', { timeout: 120_000 });
  await expect(page).toHaveTitle('Slow fade - Estela');
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    baked.getByRole('link', { name: 'Download' }).click(),
  ]);
  expect(download.suggestedFilename()).toBe('slow-fade.png');
  const sheet = PNG.sync.read(readFileSync(await download.path()));
  expect([sheet.width, sheet.height]).toEqual([6 * 192, 4 * 128]);

  await baked.getByRole('button', { name: 'Use as a source' }).click();
  await expect(page.getByText('baked: Sheet, 192 x 128, 24 frames')).toBeVisible();
  await expect(page.getByText('up to date with its material')).toBeVisible();
  // Renaming a step changes nothing of it; another reach does.
  const change = async (text: string, revision: number): Promise<void> => {
    const answer = await page.request.put(`/api/materials/${id}`, {
      headers: { 'If-Match': `"${String(revision)}"` },
      data: { text },
    });
    expect(answer.status()).toBe(200);
    await page.reload();
  };
  await change(TEXT.replaceAll('glow', 'shine'), 1);
  await expect(page.getByText('up to date with its material')).toBeVisible();
  await change(TEXT.replace('= 0.6 in', '= 0.9 in'), 2);
  await expect(page.getByText('stale: the material changed since')).toBeVisible();
  await page.getByRole('button', { name: 'Bake again' }).click();
  await expect(page.getByText('up to date with its material')).toBeVisible({ timeout: 120_000 });
});

test('bakes are cancelled, gone on with, baked again and deleted among those of the project', async ({ page }) => {
  await openMaterial(page, TEXT);
  const project = await projectId(page);
  await openTab(page, 'Bake');
  await set(page, 'Width of a frame in pixels', 512);
  await set(page, 'Height of a frame in pixels', 512);
  await panel(page).getByRole('button', { name: 'Sequence' }).click();
  await panel(page).getByRole('button', { name: 'More settings' }).click();
  await set(page, 'Samples per pixel side', 4);
  await panel(page).getByRole('button', { name: 'Start bake' }).click();
  const going = panel(page).getByRole('list', { name: 'In progress' });
  await expect(going).toContainText('of 32 frames');
  await page.goto(`/projects/${project}/bakes`);
  const one = page.getByRole('listitem').filter({ hasText: 'Slow fade' });
  await expect(page.getByRole('region', { name: 'In progress' })).toContainText(/[1-9]\d* of 32 frames/);
  await expect(page.getByRole('row', { name: /^This server .*Slow fade, [1-9]\d* chunks?$/ })).toBeVisible();
  await expectAccessible(page);
  await one.getByRole('button', { name: 'Cancel' }).click();
  await expect(page.getByRole('region', { name: 'Baked' })).toContainText(/cancelled with \d+ of 32 frames done/);
  await expect(page).toHaveTitle('Bakes - Estela');
  await one.getByRole('button', { name: 'Continue' }).click();
  await expect(page.getByRole('region', { name: 'In progress' })).toContainText(/of 32 frames/);
  await one.getByRole('button', { name: 'Cancel' }).click();
  await one.getByRole('button', { name: 'Bake again' }).click();
  await expect(one).toHaveCount(2);
  await one.first().getByRole('button', { name: 'Cancel' }).click();
  await one.first().getByRole('button', { name: 'Delete' }).click();
  await expect(one).toHaveCount(1);
  await one.getByRole('button', { name: 'Delete' }).click();
  await expect(page.getByText('No bakes yet')).toBeVisible();
  await page.getByRole('button', { name: 'New bake' }).click();
  await page.getByRole('menuitem', { name: 'Slow fade' }).click();
  await expect(panel(page)).toBeVisible();
});

test('the page of bakes tells who computes them, who was lost, and how a worker is started', async ({ page }) => {
  const project = await projectId(page);
  const seen = (ago: number): string => new Date(Date.now() - ago * 1000).toISOString();
  const task = { bakeId: 'b', projectId: project, title: 'Slow fade', chunks: 2 };
  let workers: object[] = [];
  await page.route('**/api/workers', (route) => route.fulfill({ json: workers }));
  await page.goto(`/projects/${project}/bakes`);
  const region = page.getByRole('region', { name: 'Workers' });
  await expect(region).toContainText(
    `npm run worker -- --redis redis://HOST:6379 --server ${new URL(page.url()).origin}`,
  );
  workers = [
    { id: 'a', name: 'alder', jobs: 4, state: 'busy', rate: 12.34, chunks: 7, at: [task], seenAt: seen(0) },
    { id: 'b', name: 'birch', jobs: 2, state: 'idle', rate: null, chunks: 0, at: [], seenAt: seen(2) },
    { id: 'c', name: 'cedar', jobs: 2, state: 'lost', rate: null, chunks: 3, at: [task], seenAt: seen(90) },
  ];
  await expect(region.getByRole('row')).toHaveText([
    /^Name/,
    'alder4127Slow fade, 2 chunks',
    'birch2-0idle',
    /^cedar2-3lost: no sign for 1 min 3\d s; others take over what it had$/,
  ]);
  await expectAccessible(page);
});

test('what cannot be baked so is said where it is set', async ({ page }) => {
  await openMaterial(page, TEXT);
  await openTab(page, 'Bake');
  await panel(page).getByRole('combobox', { name: 'Channels' }).click();
  await page.getByRole('option', { name: 'packed' }).click();
  await field(page, 'Content of each channel').fill('r=color.r g=shine');
  await expect(panel(page).getByRole('alert')).toContainText("'shine' is not an output");
  await expect(panel(page).getByRole('button', { name: 'Start bake' })).toBeDisabled();
  await field(page, 'Content of each channel').fill('r=color.r g=normal.x');
  await expect(panel(page).getByRole('alert')).toContainText('has no output normal');
  await field(page, 'Content of each channel').fill('orm');
  await expect(panel(page).getByRole('alert')).toContainText('has no output metallic');
  await field(page, 'Content of each channel').fill('r=color.r g=roughness a=opacity');
  await expect(panel(page).getByRole('alert')).toHaveCount(0);
  await set(page, 'Width of a frame in pixels', 8192);
  await expect(panel(page).getByRole('alert')).toContainText('This sheet is 65536 x 1024 pixels');
  await set(page, 'Width of a frame in pixels', 64);
  await panel(page).getByRole('button', { name: 'Start bake' }).click();
  await expect(panel(page).getByRole('region', { name: 'Baked' })).toContainText('r=color.r g=roughness a=opacity');
  await expect(saved(page)).toContainText('saved');
});

test('one loop of video is made by the page, and plays the frames of the bake', async ({ page }) => {
  await openMaterial(page, TEXT);
  await openTab(page, 'Bake');
  await panel(page).getByRole('button', { name: 'Video' }).click();
  await set(page, 'Width of a frame in pixels', 96);
  await set(page, 'Height of a frame in pixels', 64);
  await set(page, 'How many frames', 24);
  await panel(page).getByRole('button', { name: 'Make the video' }).click();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    panel(page).getByRole('button', { name: 'Download' }).click(),
  ]);
  expect(download.suggestedFilename()).toBe('slow-fade.webm');
  const file = await download.path();
  const entries = 'stream=codec_name,width,height,r_frame_rate,nb_read_frames:format=duration';
  const said = execFileSync('ffprobe', ['-v', 'error', '-count_frames', '-show_entries', entries, '-of', 'json', file]);
  expect(JSON.parse(said.toString())).toMatchObject({
    streams: [{ codec_name: 'vp9', width: 96, height: 64, r_frame_rate: '12/1', nb_read_frames: '24' }],
    format: { duration: '2.000000' },
  });
  const raw = execFileSync('ffmpeg', ['-v', 'error', '-i', file, '-f', 'rawvideo', '-pix_fmt', 'rgba', '-'], {
    maxBuffer: 1e9,
  });
  const baked = frames(TEXT, [96, 64], 24, true);
  for (const i of [0, 11, 23]) {
    const own = baked[i]!;
    const played = raw.subarray(i * own.length, (i + 1) * own.length);
    const apart = (other: Uint8Array): number =>
      own.reduce((sum, v, at) => sum + (at % 4 === 3 ? 0 : Math.abs(v - other[at]!)), 0) / ((own.length * 3) / 4);
    expect(apart(played)).toBeLessThan(3);
    // Another frame is further off.
    expect(apart(played)).toBeLessThan(apart(baked[(i + 4) % 24]!) / 2);
  }
});

test.describe('while it plays', () => {
  test.use(MOTION);

  test('the flipbook plays beside the live material under the wipe', async ({ page }) => {
    await openMaterial(page, TEXT);
    await openTab(page, 'Bake');
    await set(page, 'How many frames', 16);
    await panel(page).getByRole('button', { name: 'Each frame held' }).first().click();
    await expect(page.getByText('Flipbook of 16', { exact: true })).toBeVisible();
    const wipe = page.getByRole('slider', { name: 'Divider between the two' });
    /** Share of pixels in which the flipbook differs from the live material; labels and the wipe's line are some. */
    const apart = async (): Promise<number> => {
      await wipe.press('Home');
      const flipbook = await pictureOf(stage(page));
      await wipe.press('End');
      return difference(flipbook, await pictureOf(stage(page)));
    };
    // Every second frame of the loop is one of the flipbook's; between two the one before is held.
    await goToFrame(page, 6);
    await expect(async () => {
      expect(await apart()).toBeLessThan(0.06);
    }).toPass();
    await goToFrame(page, 7);
    await expect(async () => {
      expect(await apart()).toBeGreaterThan(0.12);
    }).toPass();
  });
});
