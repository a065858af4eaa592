import type { Locator, Page } from '@playwright/test';
import { MOTION } from '../playwright.config.ts';
import {
  difference,
  expect,
  expectAccessible,
  goToFrame,
  openMaterial,
  pictureOf,
  saved,
  score,
  stage,
  test,
  writeAll,
} from './support.ts';

const TEXT = [
  'material "Margin"',
  'loop 4s at 30fps',
  'dial speed: laps = 1 in -4..4',
  'flow = uv |> pan(speed, heading: 0deg)',
  'bars = flow |> stripes(3)',
  'sure = bars * 2',
  'tint = bars * #ff0000.rgb',
  'out color = tint',
  '',
].join('\n');

const picture = (page: Page, name: string): Locator =>
  page.getByRole('button', { name: new RegExp(`^Show ${name} alone`) });

/** Mean red and green of what a step's picture holds. */
const mean = (page: Page, name: string): Promise<number[]> =>
  picture(page, name)
    .locator('canvas')
    .evaluate((canvas) => {
      const { data } = (canvas as HTMLCanvasElement).getContext('2d')!.getImageData(0, 0, 64, 40);
      const sums = [0, 0];
      data.forEach((v, i) => {
        if (i % 4 < 2) sums[i % 4]! += v / (64 * 40);
      });
      return sums;
    });

test.describe('while it plays', () => {
  test.use(MOTION);
  test('each step shows its own picture, playing in time; one in error says so and the others go on', async ({
    page,
  }) => {
    await openMaterial(page, TEXT);
    await expect.poll(() => mean(page, 'tint').then(([r, g]) => r! > 60 && g! < 5)).toBe(true);
    const before = await pictureOf(picture(page, 'bars'));
    await expect(async () => {
      expect(difference(before, await pictureOf(picture(page, 'bars')))).toBeGreaterThan(0.05);
    }).toPass();
    await expect(picture(page, 'sure').locator('canvas')).toHaveClass(/cm-outside/);
    await expect(picture(page, 'bars').locator('canvas')).not.toHaveClass(/cm-outside/);
    await expectAccessible(page);

    await goToFrame(page, 0);
    // Once the one that was under way has come, no other does.
    await expect(async () => {
      const still = await pictureOf(picture(page, 'bars'));
      await page.waitForTimeout(500);
      expect(difference(still, await pictureOf(picture(page, 'bars')))).toBe(0);
    }).toPass();
    await writeAll(page, TEXT.replace('stripes', 'stripped'));
    await expect(page.getByText('error', { exact: true })).toBeVisible();
    await expect(picture(page, 'flow')).toBeVisible();
  });
});

test('a line is switched off by its mark, and on again', async ({ page }) => {
  await openMaterial(page, TEXT);
  await goToFrame(page, 0);
  const before = await pictureOf(stage(page));
  await page.getByRole('button', { name: /^Switch off bars/ }).click();
  await expect(score(page)).toContainText('off bars = flow');
  await expect(async () => {
    expect(difference(before, await pictureOf(stage(page)))).toBeGreaterThan(0.05);
  }).toPass();
  await page.getByRole('button', { name: /^Switch on bars/ }).click();
  await expect(score(page)).not.toContainText('off bars');
  await expect(async () => {
    expect(difference(before, await pictureOf(stage(page)))).toBeLessThan(0.001);
  }).toPass();
});

test('a picture opens its step alone on the Stage, and keys go through the steps', async ({ page }) => {
  await openMaterial(page, TEXT);
  await goToFrame(page, 0);
  const whole = await pictureOf(stage(page));
  await picture(page, 'bars').click();
  const alone = page.getByRole('status', { name: 'Step alone' });
  await expect(alone).toContainText('Only bars');
  await expect(async () => {
    // Grey, where the whole is red.
    const { data, width, height } = await pictureOf(stage(page));
    const pixels = Array.from({ length: width * height }, (_, i) => [data[i * 4]!, data[i * 4 + 1]!]);
    expect(pixels.filter(([r, g]) => r! > 200 && g! > 200).length / pixels.length).toBeGreaterThan(0.1);
  }).toPass();
  await page.keyboard.press('Alt+ArrowDown');
  await expect(alone).toContainText('Only sure');
  await page.keyboard.press('Alt+ArrowDown');
  await page.keyboard.press('Alt+ArrowDown');
  await expect(alone).toContainText('Only out color');
  // A link opens what was seen.
  await expect(page).toHaveURL(/alone=out\+color/);
  await saved(page).filter({ hasText: 'saved' }).waitFor();
  await page.reload();
  await expect(alone).toContainText('Only out color');
  await goToFrame(page, 0);
  await page.keyboard.press('Escape');
  await expect(alone).toHaveCount(0);
  await expect(async () => {
    expect(difference(whole, await pictureOf(stage(page)))).toBeLessThan(0.001);
  }).toPass();
  await expect(saved(page)).toContainText('saved');
});
