import { demoPart, expect, openDemo, stage, test, writeAll, openTab } from './support.ts';
import type { Page, Worker } from '@playwright/test';

/** The worker of a name, once it runs. */
async function workerOf(page: Page, name: string): Promise<Worker> {
  let found: Worker | undefined;
  await expect(async () => {
    for (const worker of page.workers()) if ((await worker.evaluate(() => self.name)) === name) found = worker;
    expect(found).toBeDefined();
  }).toPass();
  return found!;
}
const die = (worker: Worker): Promise<void> =>
  worker.evaluate(() => {
    setTimeout(() => {
      throw new Error('out of memory');
    });
  });

test('a source is fetched and decoded once for all that read it', async ({ page }) => {
  const fetched: string[] = [];
  page.on('request', (request) => {
    if (/\/sources\/[^/]+\/content/.test(request.url())) fetched.push(request.url());
  });
  await page.goto(`/materials/${await demoPart(page, 'materials', 'Fern portrait')}`);
  const checks = page.getByRole('tab', { name: /^Checks/ });
  await expect(checks).toContainText(/Checks\s*\d/);
  await openTab(page, 'Probe');
  await stage(page).hover();
  await expect(page.getByLabel('Probed pixel')).toBeVisible();
  expect(fetched.length).toBeGreaterThan(0);
  expect(fetched).toEqual([...new Set(fetched)]);
});

test('a worker that died is told of, and the next change starts another', async ({ page }) => {
  await openDemo(page, 'petal-ward');
  await die(await workerOf(page, 'checks'));
  const told = page.getByRole('alert').filter({ hasText: 'The worker for checks stopped' });
  await expect(told).toBeVisible();
  await told.getByRole('button', { name: 'Close' }).click();
  await expect(told).toHaveCount(0);
  await writeAll(page, 'loop 2s at 30fps\nout color = fract(uv.x + loop)\n');
  await expect(page.getByRole('tab', { name: /^Checks/ })).toContainText(/Checks\s*\d/);
});
