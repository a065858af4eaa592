import type { Locator, Page } from '@playwright/test';
import { MOTION } from '../playwright.config.ts';
import { expect, expectAccessible, openDemo, openMaterial, saved, score, test, openTab } from './support.ts';

const lane = (page: Page, name: string | RegExp): Locator =>
  page.getByRole('region', { name: 'Lanes' }).getByRole('group', { name });
const trace = (page: Page): Locator => page.getByRole('img', { name: /The line over time/ });
const openChecks = (page: Page): Promise<void> => openTab(page, 'Checks');
const finding = (page: Page, words: string): Locator =>
  page.getByRole('tabpanel', { name: 'Checks' }).getByRole('listitem').filter({ hasText: words });

/**
 * How far the trace just after the loop point is from the trace just after the start, 0..255: a loop that closes goes
 * on as it began.
 * The picture is 240 columns over one and a quarter loops, so the loop point lies at column 192.
 */
const traceCut = (page: Page): Promise<number> =>
  trace(page).evaluate((element) => {
    const canvas = element as HTMLCanvasElement;
    const { data, width, height } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
    const loop = Math.round(width / 1.25);
    let sum = 0;
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width - loop; x++)
        for (let c = 0; c < 3; c++)
          sum += Math.abs(data[(y * width + x) * 4 + c]! - data[(y * width + x + loop) * 4 + c]!);
    return sum / (height * (width - loop) * 3);
  });

test('a broken material is fixed: its lane, its finding, the fix, the verdict and the trace', async ({ page }) => {
  await openDemo(page, 'stray-haze');
  const deck = page.getByRole('region', { name: 'Loop deck' });
  await expect(deck.getByRole('button', { name: 'Loop broken in 2 steps' })).toBeVisible();
  await expect(lane(page, /^Lane of haze, pan: 1.8 laps.*does not close/)).toBeVisible();
  await expect(trace(page)).toHaveAttribute('data-drawn', 'true');
  await expect.poll(() => traceCut(page)).toBeGreaterThan(8);
  const jump = page.getByRole('region', { name: 'Jump' });
  await expect(jump).toContainText('visible pop');

  await openChecks(page);
  const haze = finding(page, 'haze moves by 1.8');
  await expect(haze.getByRole('list', { name: 'Why' })).toContainText(
    'fbm in haze repeats every 1, but its input moves by 1.8 in one loop',
  );
  await expectAccessible(page);
  await haze.getByRole('button', { name: 'Set drift to 2 laps' }).click();
  await expect(score(page)).toContainText('dial drift: rate = 2 laps');
  await expect(lane(page, /^Lane of haze, pan: 2 laps.*, closes/)).toBeVisible();
  await expect(haze).toHaveCount(0);
  // The other lane's fix stands in the lane itself.
  await lane(page, /^Lane of motes/)
    .getByRole('button', { name: 'Pan right 2 laps, up 1 lap' })
    .click();
  await expect(score(page)).toContainText('pan(right: 2 laps, up: 1 lap)');
  await expect(deck.getByRole('button', { name: 'Loops (these settings)' })).toBeVisible();
  await expect.poll(() => traceCut(page)).toBeLessThan(3);
  await expect(jump).not.toContainText('visible pop');

  // Each fix is one undo.
  await page.keyboard.press('Control+z');
  await expect(score(page)).toContainText('heading: 30deg');
  await expect(score(page)).toContainText('rate = 2 laps');
  await page.keyboard.press('Control+z');
  await expect(score(page)).toContainText('rate = 0.3/s');
  await expect(lane(page, /^Lane of haze.*does not close/)).toBeVisible();
});

test('fixes that keep the picture go in together, as one undo; the others stay', async ({ page }) => {
  await openMaterial(
    page,
    'loop 4s at 30fps\nspare = uv |> checker(4)\nother = uv.x\nn = uv |> fbm(cells: 4, evolve: 0.3/s)\nout color = n\n',
  );
  await openChecks(page);
  await expect(finding(page, 'No output uses spare')).toBeVisible();
  await page.getByRole('slider', { name: 'Frame' }).fill('31');
  await page.getByRole('button', { name: 'Apply all safe fixes' }).click();
  await expect(page.getByRole('status').filter({ hasText: '2 of 3 applied' })).toBeVisible();
  await expect(score(page)).not.toContainText('spare');
  await expect(score(page)).not.toContainText('other');
  await expect(score(page)).toContainText('evolve: 0.3/s');
  await page.keyboard.press('Control+z');
  await expect(score(page)).toContainText('spare');
  await expect(score(page)).toContainText('other');
});

test('a saw that cuts is found though it closes, and goes there and back once fixed', async ({ page }) => {
  await openMaterial(page, 'loop 4s at 30fps\nglow = saw(1 lap)\nout color = uv.x * 0.3 + glow * 0.6\n');
  const jump = page.getByRole('region', { name: 'Jump' });
  await expect(jump).toContainText('visible pop');
  await openChecks(page);
  await finding(page, 'restarts with a visible pop').getByRole('button', { name: 'Make it go there and back' }).click();
  await expect(score(page)).toContainText('wave(1 lap, shape: triangle)');
  await expect(jump).not.toContainText('visible pop');
  await expect.poll(() => traceCut(page)).toBeLessThan(2);
});

test('the loop is changed where it stands, and what that does is told first', async ({ page }) => {
  await openMaterial(
    page,
    'loop 4s at 30fps\nn = uv |> pan(0.5/s, heading: 0deg) |> fbm(cells: 4)\nout color = n\nvariant "Same" { }\n',
  );
  await expect(page.getByRole('button', { name: 'Loops at every setting' })).toBeVisible();
  await page.getByRole('button', { name: /^Loop 4 s at 30 fps/ }).click();
  const form = page.getByRole('dialog', { name: 'Length of the loop' });
  await form.getByLabel('Seconds').fill('4.01');
  await expect(form.getByRole('alert')).toContainText('a whole number of frames');
  await form.getByLabel('Seconds').fill('5');
  await expect(form.getByRole('row', { name: /^Loops at every setting no/ })).toBeVisible();
  await expect(form.getByRole('row', { name: /^Loops in Same at every setting no/ })).toBeVisible();
  await form.getByLabel('Seconds').fill('6');
  await expect(form.getByRole('row', { name: /^Loops at every setting at every setting/ })).toBeVisible();
  await form.getByRole('button', { name: 'Apply' }).click();
  await expect(score(page)).toContainText('loop 6s at 30fps');
  await expect(page.getByRole('group', { name: 'Time in the loop' })).toContainText('/180');
  await expect(saved(page)).toContainText('saved, revision 2');
});

test.describe('while it plays', () => {
  test.use(MOTION);
  test('lanes choose their line; hovering the trace scrubs; play can be slowed', async ({ page }) => {
    await openMaterial(
      page,
      'loop 4s at 30fps\nflow = uv |> pan(1 lap, heading: 0deg)\npulse = wave(2 laps)\nout color = (flow |> checker(4)) * pulse\n',
    );
    await page.getByRole('button', { name: 'Pause', exact: true }).click();
    await page.getByRole('button', { name: 'Select pulse' }).click();
    await expect(page.getByRole('tab', { name: 'Step: pulse' })).toBeVisible();
    const box = (await trace(page).boundingBox())!;
    // Four fifths of the width are one loop: the middle of that is its half.
    await page.mouse.move(box.x + box.width * 0.4, box.y + box.height / 2);
    await expect(page.getByRole('group', { name: 'Time in the loop' })).toContainText(/frame +(59|60|61)\//);
    await page.mouse.move(5, 5);
    await page.getByRole('combobox', { name: 'Playback speed' }).click();
    await page.getByRole('option', { name: '0.1x' }).click();
    await page.getByRole('slider', { name: 'Frame' }).fill('0');
    await page.getByRole('button', { name: 'Play', exact: true }).click();
    const frame = async (): Promise<number> =>
      Number(
        /frame +(\d+)/.exec((await page.getByRole('group', { name: 'Time in the loop' }).textContent()) ?? '')?.[1],
      );
    // A tenth of 30 frames a second: after about two seconds some 6, never 30.
    await page.waitForTimeout(2000);
    const slow = await frame();
    expect(slow).toBeGreaterThan(1);
    expect(slow).toBeLessThan(30);
    // The line can be placed on the Stage, by its keys too.
    await page.getByRole('button', { name: 'Set position' }).click();
    await page.getByRole('button', { name: 'Start of the traced line' }).press('ArrowRight');
    await expect(page.getByRole('button', { name: 'a slanted line' })).toBeVisible();
  });
});

/** Mean red of what a heat picture shows over its dark. */
const heat = (page: Page, name: string): Promise<number> =>
  page.getByRole('img', { name }).evaluate((element) => {
    const canvas = element as HTMLCanvasElement;
    const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
    let sum = 0;
    for (let i = 0; i < data.length; i += 4) sum += data[i]!;
    return sum / (data.length / 4);
  });

test('lenses show what does not meet, and which way things move', async ({ page }) => {
  await openMaterial(
    page,
    'loop 4s at 30fps\nflow = uv |> pan(0.5/s, heading: 90deg)\nn = flow |> fbm(cells: 4)\nout color = n * uv.x\n',
  );
  const lens = (name: string): Locator =>
    page.getByRole('group', { name: 'Lens' }).getByRole('button', { name, exact: true });
  const legend = page.getByRole('status', { name: 'What the lens shows' });
  await lens('Loop').click();
  await expect(legend).toContainText('largest: none');
  expect(await heat(page, 'Difference between the end of the loop and its start')).toBeLessThan(0x20);
  await expect(page).toHaveURL(/lens=loop/);
  await lens('Seams').click();
  await expect(legend).toContainText(/largest: 0\.\d/);
  expect(await heat(page, 'Tile-edge difference')).toBeGreaterThan(0x60);
  await lens('Tiling').click();
  await expect(legend).toContainText('Horizontal tiling: fails. Vertical: proven at every setting.');
  await lens('Motion').click();
  await expect(legend).toContainText('flow moves at up to 0.500 UV/s');
  await page.reload();
  await expect(legend).toContainText('0.500');
  await lens('Step').click();
  await expect(page.getByRole('status', { name: 'Step alone' })).toBeVisible();
  await lens('Material').click();
  await expect(page.getByRole('status', { name: 'Step alone' })).toHaveCount(0);
});

test('a budget is watched, and the Shelf counts what was found', async ({ page }) => {
  await openDemo(page, 'mist-curtain');
  await openChecks(page);
  await page.getByRole('textbox', { name: 'Most operations' }).fill('100');
  await page.keyboard.press('Enter');
  await expect(finding(page, 'over the budget of 100; most of them are in puffs')).toBeVisible();
  await openTab(page, 'Dials');
  await expect(page.getByRole('button', { name: 'Base over budget' })).toBeVisible();
  await openChecks(page);
  await page.getByRole('textbox', { name: 'Most operations' }).fill('');
  await page.keyboard.press('Enter');
  await expect(finding(page, 'over the budget')).toHaveCount(0);
  await page.goto('/');
  // Lame beacon: a band past its picture's edge, and a hold that does not fit.
  await expect(page.getByText('2 checks')).toBeVisible();
});
