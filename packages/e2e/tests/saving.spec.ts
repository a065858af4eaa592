import { shapeMesh } from '@estela/core';
import {
  expect,
  isolate,
  openMaterial,
  projectId,
  saved,
  score,
  serverAway,
  storeMesh,
  test,
  writeAll,
} from './support.ts';

test('a stale save from a second tab says so and keeps the typed text', async ({ page, context }) => {
  await isolate(context);
  const id = await openMaterial(page, 'out color = 0.1\n');
  const second = await context.newPage();
  await second.goto(`/materials/${id}`);
  await expect(score(second)).toBeVisible();

  await writeAll(page, 'out color = 0.2\n');
  await expect(saved(page)).toHaveText('saved, revision 2');
  await writeAll(second, 'out color = 0.3\n');
  await expect(second.getByText('this material was saved elsewhere')).toBeVisible();
  await expect(score(second)).toContainText('0.3');

  await second.getByRole('button', { name: 'Overwrite with mine' }).click();
  await expect(saved(second)).toHaveText('saved, revision 3');
  await writeAll(page, 'out color = 0.4\n');
  await page.getByRole('button', { name: 'Load the other version' }).click();
  await expect(score(page)).toContainText('0.3');
  await score(page).click();
  await page.keyboard.press('Control+z');
  await expect(score(page)).toContainText('0.4');
});

test('text that was typed while the server was away is brought back', async ({ page }) => {
  await openMaterial(page, 'out color = 0.1\n');
  const back = await serverAway(page);
  await writeAll(page, 'out color = 0.7\n');
  await expect(page.getByRole('alert')).toContainText('The server cannot be reached');
  // Leaving the page tries once more to save it.
  await page.reload();
  await expect(page.getByText('were restored')).toBeVisible();
  await expect(score(page)).toContainText('0.7');
  back();
  await expect(saved(page)).toHaveText('saved, revision 2');
});

test('a set and the UVs of a mesh that were changed while the server was away are brought back', async ({ page }) => {
  const project = `/projects/${await projectId(page)}`;
  const undo = page.getByRole('button', { name: /^Undo/ });
  const lostAndFound = async (back: () => void): Promise<void> => {
    await expect(page.getByText('the server cannot be reached')).toBeVisible();
    await page.reload();
    await expect(page.getByText('were restored')).toBeVisible();
    back();
    await expect(page.getByText('saved', { exact: true })).toBeVisible();
    await undo.click();
    await expect(page.getByText('saved', { exact: true })).toBeVisible();
  };
  await page.goto(`${project}/sets`);
  await page.getByRole('button', { name: 'New set' }).click();
  let back = await serverAway(page);
  await page.getByRole('textbox', { name: 'Scale' }).fill('0.7');
  await page.getByRole('textbox', { name: 'Scale' }).press('Enter');
  await lostAndFound(back);

  await page.goto(`${project}/meshes/${await storeMesh(page, 'box', shapeMesh('cube', 4))}`);
  back = await serverAway(page);
  await page.getByRole('button', { name: 'Select all' }).click();
  await page.getByRole('button', { name: 'Mirror u' }).click();
  await lostAndFound(back);
});
