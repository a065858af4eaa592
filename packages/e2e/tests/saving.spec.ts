import { expect, openMaterial, saved, score, test, writeAll } from './support.ts';

test('a stale save from a second tab says so and keeps the typed text', async ({ page, context }) => {
  const id = await openMaterial(page, 'out color = 0.1\n');
  const second = await context.newPage();
  await second.goto(`/materials/${id}`);
  await expect(score(second)).toBeVisible();

  await writeAll(page, 'out color = 0.2\n');
  await expect(saved(page)).toHaveText('saved, revision 2');
  await writeAll(second, 'out color = 0.3\n');
  await expect(second.getByText('this material was saved elsewhere')).toBeVisible();
  await expect(score(second)).toContainText('0.3');

  await second.getByRole('button', { name: 'Save mine over it' }).click();
  await expect(saved(second)).toHaveText('saved, revision 3');
  await writeAll(page, 'out color = 0.4\n');
  await page.getByRole('button', { name: 'Take the other' }).click();
  await expect(score(page)).toContainText('0.3');
  await score(page).click();
  await page.keyboard.press('Control+z');
  await expect(score(page)).toContainText('0.4');
});

test('text that was typed while the server was away is brought back', async ({ page }) => {
  await openMaterial(page, 'out color = 0.1\n');
  await page.route('**/api/materials/**', (route) =>
    route.request().method() === 'PUT' ? route.abort() : route.continue(),
  );
  await writeAll(page, 'out color = 0.7\n');
  await expect(page.getByRole('alert')).toContainText('The server is away');
  // Leaving the page tries once more to save it.
  await page.reload();
  await expect(page.getByText('has been brought back')).toBeVisible();
  await expect(score(page)).toContainText('0.7');
  await page.unroute('**/api/materials/**');
  await expect(saved(page)).toHaveText('saved, revision 2');
});
