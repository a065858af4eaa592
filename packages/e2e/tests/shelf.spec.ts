import { MOTION } from '../playwright.config.ts';
import { difference, expect, expectAccessible, pictureOf, score, test } from './support.ts';

test.describe('while it plays', () => {
  test.use(MOTION);
  test('shows the demo as cards that play', async ({ page }) => {
    await page.goto('/');
    await expect(page.getByRole('heading', { name: 'Glasshouse Nine' })).toBeVisible();
    for (const title of ['Mist curtain', 'Orrery dial', 'Guide lamps', 'Notice ribbon']) {
      const card = page.getByRole('listitem').filter({ has: page.getByRole('link', { name: `Open ${title}` }) });
      await expect(async () => {
        const before = await pictureOf(card);
        await page.waitForTimeout(700);
        expect(difference(before, await pictureOf(card))).toBeGreaterThan(0.003);
      }).toPass();
    }
    await expectAccessible(page);
  });
});

test('makes, renames and deletes projects and materials', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('button', { name: 'New project' }).click();
  await page.getByRole('textbox', { name: 'Name' }).fill('Trial');
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Create project' }).click();
  const project = page.getByRole('region', { name: 'Trial' });
  await expect(project).toContainText('No materials yet');

  await project.getByRole('button', { name: 'New material' }).click();
  await page.getByRole('textbox', { name: 'Title' }).fill('First try');
  await page.getByRole('button', { name: 'Create material' }).click();
  await expect(page.getByRole('heading', { name: 'First try' })).toBeVisible();
  await expect(score(page)).toContainText('material "First try"');

  await page.getByRole('link', { name: 'Shelf', exact: true }).click();
  await project.getByRole('button', { name: 'More for First try' }).click();
  await page.getByRole('menuitem', { name: 'Rename' }).click();
  await page.getByRole('textbox', { name: 'Title' }).fill('Second try');
  await page.getByRole('button', { name: 'Rename', exact: true }).last().click();
  await project.getByRole('link', { name: 'Open Second try' }).click();
  // The title is the text's own.
  await expect(score(page)).toContainText('material "Second try"');

  await page.goBack();
  await project.getByRole('button', { name: 'More for Second try' }).click();
  await page.getByRole('menuitem', { name: 'Delete' }).click();
  await expect(project).toContainText('No materials yet');

  await project.getByRole('button', { name: 'Rename' }).click();
  await page.getByRole('textbox', { name: 'Name' }).fill('Trial two');
  await page.getByRole('button', { name: 'Rename', exact: true }).last().click();
  const renamed = page.getByRole('region', { name: 'Trial two' });
  await renamed.getByRole('button', { name: 'Delete' }).click();
  await page.getByRole('button', { name: 'Delete project' }).click();
  await expect(renamed).toHaveCount(0);
});

test('says where nothing is', async ({ page }) => {
  for (const address of ['/nowhere', '/materials/00000000-0000-4000-8000-000000000000', '/materials/x']) {
    await page.goto(address);
    await expect(page.getByText('Page not found')).toBeVisible();
  }
  await page.getByRole('link', { name: 'To the Shelf', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'Glasshouse Nine' })).toBeVisible();
});
