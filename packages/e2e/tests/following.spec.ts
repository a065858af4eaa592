import { PNG } from 'pngjs';
import { expect, openMaterial, projectId, saved, score, test, writeAll } from './support.ts';

test('what another page saves is seen at once, and leads back by undo; what is typed here is never lost', async ({
  page,
  context,
}) => {
  const id = await openMaterial(page, 'material "Shared haze"\n\nout color = 0.1\n');
  const other = await context.newPage();
  await other.goto(`/materials/${id}`);
  await expect(score(other)).toContainText('0.1');
  await writeAll(other, 'material "Shared haze"\n\nout color = 0.2\n');
  await expect(score(page)).toContainText('0.2');
  await expect(saved(page)).toHaveText('saved, revision 2');
  await score(page).click();
  await page.keyboard.press('Control+z');
  await expect(score(page)).toContainText('0.1');
  await expect(saved(page)).toHaveText('saved, revision 3');
  await expect(score(other)).toContainText('0.1');
  await expect(saved(other)).toHaveText('saved, revision 3');

  // The Shelf follows, too: a title, and what is deleted.
  const shelf = await context.newPage();
  await shelf.goto('/');
  await expect(shelf.getByRole('link', { name: 'Open Shared haze' })).toBeVisible();
  await writeAll(page, 'material "Thin haze"\n\nout color = 0.3\n');
  await expect(shelf.getByRole('link', { name: 'Open Thin haze' })).toBeVisible();
  await expect(saved(page)).toHaveText('saved, revision 4');
  const answer = await page.request.delete(`/api/materials/${id}`, { headers: { 'if-match': '"4"' } });
  expect(answer.status()).toBe(204);
  await expect(shelf.getByRole('link', { name: 'Open Thin haze' })).toBeHidden();
  await expect(page.getByRole('alert')).toContainText('this material was deleted');
  await page.getByRole('button', { name: 'Restore the material' }).click();
  await expect(shelf.getByRole('link', { name: 'Open Thin haze' })).toBeVisible();
});

test('a set and the sources of a project follow what others do', async ({ page, context }) => {
  const project = await projectId(page);
  const set = {
    name: 'Shared vents',
    items: [],
    scene: { environment: 'greenhouse', backdrop: 'grey', exposure: 0 },
    view: null,
  };
  const made = (await (await page.request.post(`/api/projects/${project}/sets`, { data: set })).json()) as {
    id: string;
  };
  await page.goto(`/projects/${project}/sets/${made.id}`);
  await expect(page).toHaveTitle('Shared vents - Estela');
  const list = await context.newPage();
  await list.goto(`/projects/${project}/sets`);
  await expect(list.getByText('Shared vents')).toBeVisible();
  const change = await page.request.put(`/api/sets/${made.id}`, {
    data: { ...set, name: 'Shared ducts' },
    headers: { 'if-match': '"1"' },
  });
  expect(change.status()).toBe(200);
  await expect(page).toHaveTitle('Shared ducts - Estela');
  await expect(list.getByText('Shared ducts')).toBeVisible();
  await page.getByRole('button', { name: /^Undo/ }).click();
  await expect(page).toHaveTitle('Shared vents - Estela');
  await expect(list.getByText('Shared vents')).toBeVisible();

  const bring = async (name: string): Promise<void> => {
    const buffer = PNG.sync.write(new PNG({ width: 8, height: 8 }));
    const multipart = { name, file: { name, mimeType: 'image/png', buffer } };
    expect((await page.request.post(`/api/projects/${project}/sources`, { multipart })).status()).toBe(201);
  };
  await bring('before.png');
  await list.goto(`/projects/${project}/sources`);
  await expect(list.getByRole('link', { name: 'Open before.png' })).toBeVisible();
  await bring('meanwhile.png');
  await expect(list.getByRole('link', { name: 'Open meanwhile.png' })).toBeVisible();
});
