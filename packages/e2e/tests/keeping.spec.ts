import { readFileSync } from 'node:fs';
import type { Page } from '@playwright/test';
import {
  difference,
  expect,
  expectAccessible,
  goToFrame,
  isolate,
  openMaterial,
  openTab,
  pictureOf,
  saved,
  serverAway,
  score,
  stage,
  test,
  writeAll,
} from './support.ts';

const savedAs = (page: Page, revision: number): Promise<void> =>
  expect(saved(page)).toHaveText(`saved, revision ${String(revision)}`);

test('revisions are listed, named, compared and restored', async ({ page }) => {
  await openMaterial(page, 'out color = 0.1\n');
  await goToFrame(page, 0);
  await writeAll(page, 'out color = 0.9\n');
  await savedAs(page, 2);
  await page.getByRole('button', { name: 'Revisions' }).click();
  const dialog = page.getByRole('dialog', { name: 'Revisions' });
  await dialog.getByRole('button', { name: 'Show revision 1' }).click();
  await dialog.getByRole('textbox', { name: 'Name of revision 1' }).fill('dark start');
  await page.keyboard.press('Enter');
  await expect(dialog.getByRole('textbox', { name: 'Revision 1', exact: true })).toContainText('out color = 0.1');
  await expect(dialog.getByRole('textbox', { name: 'Now', exact: true })).toContainText('out color = 0.9');
  await expect(async () => {
    const [old, now] = [
      await pictureOf(dialog.getByRole('img', { name: 'Revision 1 playing' })),
      await pictureOf(dialog.getByRole('img', { name: 'The current material, playing' })),
    ];
    expect(difference(old, now)).toBe(1);
  }).toPass();
  await expectAccessible(page);

  await dialog.getByRole('button', { name: 'Compare on the Stage' }).click();
  await expect(async () => {
    const { data, width, height } = await pictureOf(stage(page));
    const at = (share: number): number => data[(Math.floor(height / 2) * width + Math.floor(width * share)) * 4]!;
    expect(at(0.45) - at(0.55)).toBeGreaterThan(80);
  }).toPass();
  await page.getByRole('button', { name: 'Stop comparing' }).click();

  await page.getByRole('button', { name: 'Revisions' }).click();
  await dialog.getByRole('button', { name: 'Show revision 1' }).click();
  await expect(dialog.getByRole('textbox', { name: 'Name of revision 1' })).toHaveValue('dark start');
  await dialog.getByRole('button', { name: 'Restore revision 1' }).click();
  await expect(score(page)).toContainText('0.1');
  await savedAs(page, 3);
  await page.keyboard.press('Control+z');
  await expect(score(page)).toContainText('0.9');
});

test('two texts of one material are merged side by side', async ({ page, context }) => {
  await isolate(context);
  const id = await openMaterial(page, 'a = 0.1\nb = 0.2\nout color = a + b\n');
  const second = await context.newPage();
  await second.goto(`/materials/${id}`);
  await expect(score(second)).toBeVisible();
  await writeAll(page, 'a = 0.3\nb = 0.2\nout color = a + b\n');
  await savedAs(page, 2);
  await writeAll(second, 'a = 0.1\nb = 0.4\nout color = a + b\n');
  await second.getByRole('button', { name: 'Compare and merge' }).click();
  const dialog = second.getByRole('dialog', { name: 'Two versions of one material' });
  await expect(dialog.getByRole('textbox', { name: 'Saved elsewhere, revision 2' })).toContainText('a = 0.3');
  const mine = dialog.getByRole('textbox', { name: 'Yours' });
  await expect(mine).toContainText('b = 0.4');
  await expectAccessible(second);
  await mine.click();
  await second.keyboard.press('Control+a');
  await second.keyboard.insertText('a = 0.3\nb = 0.4\nout color = a + b\n');
  await dialog.getByRole('button', { name: 'Save the merged text' }).click();
  await savedAs(second, 3);
  const { text } = (await (await page.request.get(`/api/materials/${id}`)).json()) as { text: string };
  expect(text).toBe('a = 0.3\nb = 0.4\nout color = a + b\n');
});

test('while the server is away typing goes on, the Bench says so, and all is sent when it is back', async ({
  page,
}) => {
  const id = await openMaterial(page, 'out color = 0.1\n');
  const back = await serverAway(page);
  await writeAll(page, 'out color = 0.5\n');
  await expect(page.getByRole('alert')).toContainText('The server cannot be reached');
  await writeAll(page, 'out color = 0.6\n');
  await expect(page.getByRole('alert')).toContainText('The server cannot be reached');
  // Once the server answers it may be saved before a hand asks for it: the button is tried while it does not.
  const tried = page.waitForRequest((request) => request.method() === 'PUT');
  await page.getByRole('button', { name: 'Try now' }).click();
  await tried;
  back();
  await savedAs(page, 2);
  expect(((await (await page.request.get(`/api/materials/${id}`)).json()) as { text: string }).text).toBe(
    'out color = 0.6\n',
  );
});

test('the Shelf searches, duplicates, deletes with undo, keeps notes, and carries a project through a zip', async ({
  page,
}) => {
  await page.goto('/');
  const project = page.getByRole('region', { name: 'Glasshouse Nine', exact: true });
  await page.getByRole('searchbox', { name: 'Search materials' }).fill('aurora');
  await expect(project.getByRole('link', { name: /^Open/ })).toHaveCount(1);
  await project.getByRole('button', { name: 'More for Aurora dome' }).click();
  await page.getByRole('menuitem', { name: 'Duplicate' }).click();
  await expect(project.getByRole('link', { name: 'Open Aurora dome copy' })).toBeVisible();
  await project.getByRole('button', { name: 'More for Aurora dome copy' }).click();
  await page.getByRole('menuitem', { name: 'Delete' }).click();
  await expect(project.getByRole('link', { name: 'Open Aurora dome copy' })).toHaveCount(0);
  // With what says so, and its way back, which stays while it is pointed at.
  await page.getByRole('button', { name: 'Undo' }).hover();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(project.getByRole('link', { name: 'Open Aurora dome copy' })).toBeVisible();
  await project.getByRole('button', { name: 'More for Aurora dome copy' }).click();
  await page.getByRole('menuitem', { name: 'Delete' }).click();
  await expect(project.getByRole('link', { name: 'Open Aurora dome copy' })).toHaveCount(0);
  await page.getByRole('searchbox', { name: 'Search materials' }).fill('');

  await project.getByRole('textbox', { name: 'Notes on Glasshouse Nine' }).fill('Look here first.');
  await page.getByRole('heading', { name: 'Shelf' }).click();

  const waiting = page.waitForEvent('download');
  await project.getByRole('button', { name: 'Export as zip' }).click();
  const path = await (await waiting).path();
  expect(readFileSync(path).subarray(0, 4).toString('latin1')).toBe('PK\x03\x04');
  const all = async (): Promise<{ id: string; name: string; notes: string; materials: number }[]> =>
    (await (await page.request.get('/api/projects')).json()) as never;
  const [before] = await all();
  await page
    .getByLabel('Project as zip')
    .setInputFiles({ name: 'project.zip', mimeType: 'application/zip', buffer: readFileSync(path) });
  await expect(page.getByText('Glasshouse Nine is imported.')).toBeVisible({ timeout: 60_000 });
  const after = (await all()).at(-1)!;
  expect(after).toMatchObject({ name: 'Glasshouse Nine', notes: 'Look here first.', materials: before!.materials });
  interface Listed {
    readonly id?: string;
    readonly title?: string;
    readonly text?: string;
    readonly name?: string;
    readonly hash?: string;
    readonly recipe?: { readonly kind: string } | null;
  }
  const list = async (id: string, what: string): Promise<Listed[]> =>
    (await (await page.request.get(`/api/projects/${id}/${what}`)).json()) as Listed[];
  const texts = async (id: string): Promise<unknown> => (await list(id, 'materials')).map((m) => m.text).sort();
  const pictures = async (id: string): Promise<unknown> =>
    (await list(id, 'sources')).map((s) => [s.name, s.hash, s.recipe?.kind]).sort();
  expect(await texts(after.id)).toEqual(await texts(before!.id));
  const meshes = async (id: string): Promise<unknown> => (await list(id, 'meshes')).map((m) => [m.name, m.hash]);
  expect(await meshes(after.id)).toEqual(await meshes(before!.id));
  /** Sets with the names of what stands on them, in place of ids. */
  const sets = async (id: string): Promise<unknown> => {
    const names = new Map(
      [...(await list(id, 'materials')), ...(await list(id, 'meshes'))].map((m) => [m.id, m.title ?? m.name]),
    );
    return (
      (await list(id, 'sets')) as {
        name: string;
        items: { mesh: string; material: string; variant: string | null }[];
      }[]
    ).map((set) => [
      set.name,
      set.items.map((item) => [names.get(item.mesh) ?? item.mesh, names.get(item.material), item.variant]),
    ]);
  };
  expect(await sets(before!.id)).toContainEqual([
    'Two spore shells',
    [
      ['sphere', 'Spore shells', 'Swift'],
      ['sphere', 'Spore shells', null],
    ],
  ]);
  expect(await sets(after.id)).toEqual(await sets(before!.id));
  expect(await pictures(after.id)).toEqual(await pictures(before!.id));
  await page.request.delete(`/api/projects/${after.id}`, { headers: { 'if-match': '*' } });

  await page
    .getByLabel('Project as zip')
    .setInputFiles({ name: 'broken.zip', mimeType: 'application/zip', buffer: Buffer.from('no zip') });
  await expect(page.getByText('broken.zip cannot be opened: it is not a zip, or it is broken.')).toBeVisible();
});

test('panels are resized by keys and keep their size; small and large windows cut nothing off', async ({ page }) => {
  await openMaterial(page, 'flow = uv |> pan(1 lap)\nout color = flow |> checker(4)\n');
  const bar = page.getByRole('separator', { name: 'Width of the Score' });
  const width = async (): Promise<number> =>
    (await page.getByRole('region', { name: 'Score', exact: true }).boundingBox())!.width;
  const before = await width();
  await bar.focus();
  for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowRight');
  await expect.poll(width).toBeGreaterThan(before + 30);
  const wider = await width();
  await page.reload();
  await expect(score(page)).toBeVisible();
  await expect.poll(async () => Math.abs((await width()) - wider)).toBeLessThan(3);

  // 1280x800 at 200 % zoom is a window of 640x400; what does not fit can be scrolled to.
  for (const [w, h] of [
    [1280, 800],
    [1920, 1080],
    [640, 400],
  ] as const) {
    await page.setViewportSize({ width: w, height: h });
    for (const name of ['Bake', '+ Insert', 'Probe', '+ Dial', 'Play']) {
      const button = page.getByRole(name === 'Probe' ? 'tab' : 'button', { name, exact: true });
      await button.scrollIntoViewIfNeeded();
      await expect(button).toBeInViewport({ ratio: 0.98 });
    }
  }
  await page.setViewportSize({ width: 1920, height: 1080 });
  await expect.poll(async () => (await stage(page).boundingBox())!.width).toBeGreaterThan(700);
});

test('a view that takes long to come is gone to nevertheless, whatever was chosen just before', async ({ page }) => {
  await page.route('**/assets/SourcesPage*', async (route) => {
    await new Promise((done) => setTimeout(done, 2000));
    await route.continue();
  });
  await openMaterial(page, 'a = 0.1\nb = 0.2\nout color = a + b\n');
  await openTab(page, 'Sources');
  await score(page).getByText('b = ').click();
  await page.getByRole('link', { name: 'Open Sources' }).click();
  await expect(page.getByRole('heading', { name: 'Sources' })).toBeVisible();
  await page.waitForTimeout(600);
  await expect(page).toHaveURL(/\/sources$/);
});
