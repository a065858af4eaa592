import type { Locator, Page } from '@playwright/test';
import { MOTION } from '../playwright.config.ts';
import {
  demoId,
  demoPart,
  difference,
  dropOn,
  expect,
  expectAccessible,
  makeMaterial,
  openMaterial,
  pictureOf,
  projectId,
  stage,
  test,
} from './support.ts';

const view = (page: Page): Locator => page.getByRole('img', { name: 'The set' });

const openSets = async (page: Page): Promise<unknown> => page.goto(`/projects/${await projectId(page)}/sets`);

/** The picture once it no longer changes. */
async function settled(page: Page, of: Locator): Promise<Awaited<ReturnType<typeof pictureOf>>> {
  let before = await pictureOf(of);
  await expect(async () => {
    const now = await pictureOf(of);
    const change = difference(before, now);
    before = now;
    expect(change).toBe(0);
    expect(now.data.some((v, i) => i % 4 < 3 && Math.abs(v - now.data[i % 4]!) > 24)).toBe(true);
  }).toPass({ timeout: 60_000 });
  return before;
}

/** Counts what the page asks of the graphics card. */
const count = (page: Page): Promise<unknown> =>
  page.addInitScript(() => {
    const counts = { draws: 0, materials: 0 };
    Object.assign(window, { counts });
    // oxlint-disable-next-line typescript/unbound-method -- called with their own this below
    const { drawArrays, shaderSource } = WebGL2RenderingContext.prototype;
    WebGL2RenderingContext.prototype.drawArrays = function (...args) {
      counts.draws++;
      drawArrays.apply(this, args);
    };
    WebGL2RenderingContext.prototype.shaderSource = function (shader, source) {
      if (source.includes('material_Outputs material(')) counts.materials++;
      shaderSource.call(this, shader, source);
    };
  });
const counted = (page: Page): Promise<{ draws: number; materials: number }> =>
  page.evaluate(() => ({ ...(window as unknown as { counts: { draws: number; materials: number } }).counts }));

test.describe('while it plays', () => {
  test.use(MOTION);
  test('two variants on a set share one shader; a lost context comes back with all of it', async ({ page }) => {
    await count(page);
    await page.goto(`/projects/${await demoId(page)}/sets/${await demoPart(page, 'sets', 'Two spore shells')}`);
    await expect(page.getByRole('list', { name: 'Objects on the set' }).getByRole('button')).toHaveCount(2);
    await page.getByRole('button', { name: 'Pause' }).click();
    const before = await settled(page, view(page));
    // One for both shells, and one for the box about what is chosen.
    expect((await counted(page)).materials).toBe(2);
    await expectAccessible(page);
    await view(page)
      .locator('canvas')
      .evaluate((canvas: HTMLCanvasElement) => {
        const extension = canvas.getContext('webgl2')!.getExtension('WEBGL_lose_context')!;
        extension.loseContext();
        setTimeout(() => {
          extension.restoreContext();
        }, 1500);
      });
    await expect(page.getByText('The graphics context was lost')).toBeVisible();
    await expect(page.getByText('The graphics context was lost')).toHaveCount(0);
    await expect(async () => expect(difference(before, await pictureOf(view(page)))).toBeLessThan(0.001)).toPass();
  });
});

test('a set is made, changed with undo, kept, and seen from the Bench with the text that is being written', async ({
  page,
}) => {
  const name = `white thing ${String(Date.now())}`;
  const id = await makeMaterial(
    page,
    `material "${name}"\nloop 2s at 30fps\nsurface unlit opaque two-sided\nout color = (1, 1, 1) + uv.x * 0\n`,
  );
  await openSets(page);
  await expect(page.getByRole('button', { name: 'New set' })).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'New set' }).click();
  await page.getByRole('combobox', { name: 'Material of the object' }).click();
  await page.getByRole('option', { name }).click();
  await page.getByRole('combobox', { name: 'Backdrop' }).click();
  await page.getByRole('option', { name: 'Plain' }).click();
  const white = async (): Promise<number> => {
    const { data } = await pictureOf(view(page));
    let sum = 0;
    for (let i = 0; i < data.length; i += 4) if (data[i]! > 240) sum++;
    return sum;
  };
  await expect(async () => expect(await white()).toBeGreaterThan(5000)).toPass();
  const one = await white();

  // Three of them in a row without gaps, smaller.
  const scale = page.getByRole('textbox', { name: 'Scale' });
  await scale.fill('0.4');
  await scale.press('Enter');
  await page.getByRole('button', { name: 'In a row' }).click();
  await page.getByRole('textbox', { name: 'How many' }).fill('3');
  await page.getByRole('textbox', { name: 'How many' }).press('Enter');
  await page.getByRole('button', { name: 'End to end' }).click();
  await expect(page.getByRole('textbox', { name: 'Step x' })).toHaveValue('1');
  // Three times 0.4 squared; those beside the middle are a little farther, and the box covers some.
  await expect(async () => expect(Math.abs((await white()) / one - 0.45)).toBeLessThan(0.1)).toPass();

  // A click chooses, a drag of what is chosen moves it, and undo takes it back.
  const place = page.getByRole('textbox', { name: 'Position x' });
  const box = (await view(page).boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 - 80, box.y + box.height / 2, { steps: 6 });
  await page.mouse.up();
  await expect.poll(async () => Number(await place.inputValue())).toBeLessThan(-0.05);
  await page.keyboard.press('Control+z');
  await expect(place).toHaveValue('0');
  await expect(page.getByText('saved', { exact: true })).toBeVisible();
  const set = page.url().split('/').at(-1)!;

  await page.reload();
  await expect(page.getByRole('textbox', { name: 'How many' })).toHaveValue('3');
  await page.goto(`/materials/${id}?view=set-${set}`);
  await expect(page.getByRole('combobox', { name: 'Mesh' })).toHaveText(/new set/);
  await expect(async () => {
    const { data } = await pictureOf(stage(page));
    expect(data.some((v, i) => i % 4 === 0 && v > 240)).toBe(true);
  }).toPass();
  await page.getByRole('textbox', { name: 'Text of the material' }).click();
  await page.keyboard.press('Control+End');
  await page.keyboard.insertText('out emissive = 0\n');
  await page.keyboard.press('Control+a');
  await page.keyboard.insertText(
    `material "${name}"\nloop 2s at 30fps\nsurface unlit opaque two-sided\nout color = (1, 0, 0) + uv.x * 0\n`,
  );
  await expect(async () => {
    const { data } = await pictureOf(stage(page));
    expect(data.some((v, i) => i % 4 === 0 && v > 240 && data[i + 1]! < 20)).toBe(true);
  }).toPass();
});

test.describe('while it plays', () => {
  test.use(MOTION);
  test("nothing is drawn where nothing moves, and a frame's time is told where something does", async ({ page }) => {
    await count(page);
    await openMaterial(page, 'loop 2s at 30fps\nsurface unlit opaque\nout color = (uv.x, uv.y, 0.5)\n', '?view=sphere');
    await expect(page.getByRole('button', { name: 'Pause', exact: true })).toBeVisible();
    await settled(page, stage(page));
    await page.waitForTimeout(500);
    const before = await counted(page);
    await page.waitForTimeout(1000);
    // Time goes on, and the deck with it.
    expect((await counted(page)).draws).toBe(before.draws);
    await expect(page.getByTitle('Time of a frame')).toHaveText('');
    await openMaterial(
      page,
      'loop 2s at 30fps\nsurface unlit opaque\nflow = uv |> pan(1 lap)\nout color = flow.x |> fract()\n',
      '?view=sphere',
    );
    await expect(page.getByTitle(/^Time of a frame/)).toHaveText(/^\d+ ms/);
    expect((await counted(page)).draws).toBeGreaterThan(0);
  });
});

test('a mesh dropped on a set stands there at once; a deleted set can be had back', async ({ page }) => {
  await openSets(page);
  await page.getByRole('button', { name: 'New set' }).click();
  const things = page.getByRole('list', { name: 'Objects on the set' }).getByRole('button');
  await expect(things).toHaveCount(1);
  const name = `dropped ${String(Date.now())}`;
  await dropOn(view(page), [
    {
      name: `${name}.obj`,
      bytes: Buffer.from('v -1 -1 0\nv 1 -1 0\nv 1 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nf 1/1 2/2 3/3\n'),
    },
  ]);
  await expect(things).toHaveCount(2);
  await expect(things.nth(1)).toContainText(name);
  await expect(page.getByText('saved', { exact: true })).toBeVisible();
  // Where nothing takes a file, it is not opened in place of the page.
  const address = page.url();
  await dropOn(page.getByRole('banner'), [{ name: 'stray.png', bytes: Buffer.from('x') }]);
  expect(page.url()).toBe(address);
  const set = await page.getByRole('heading', { level: 1 }).textContent();
  await page.getByRole('button', { name: 'Delete' }).click();
  await page.getByRole('button', { name: 'Delete set' }).click();
  await expect(page.getByText(`${set ?? ''} was deleted.`)).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('link', { name: set ?? '' }).click();
  await expect(things).toHaveCount(2);
});

test('a refracting sheet shows what can be seen through behind it', async ({ page }) => {
  const sheet = (z: number, material: string, id: string): object => ({
    id,
    mesh: 'plane',
    subdivisions: null,
    material,
    variant: null,
    position: [0, 0, z],
    turn: [0, 0, 0],
    scale: 1,
    copies: null,
    turning: 0,
    delay: 0,
    overlay: false,
  });
  const clear =
    'loop 2s at 30fps\nsurface lit blend two-sided\nout color = uv.x * 0\nout opacity = 0\nout roughness = 0\nout refraction = 1\n';
  const front = await makeMaterial(page, clear);
  const back = await makeMaterial(
    page,
    'loop 2s at 30fps\nsurface unlit blend two-sided\nout color = (1, 0, 0) + uv.x * 0\nout opacity = 0.8\n',
  );
  const project = await projectId(page);
  const data = {
    name: `two sheets ${String(Date.now())}`,
    items: [sheet(0, front, 'front'), sheet(-0.3, back, 'back')],
    scene: { environment: 'studio', backdrop: 'plain', exposure: 0 },
    view: null,
  };
  const made = (await (await page.request.post(`/api/projects/${project}/sets`, { data })).json()) as { id: string };
  await page.goto(`/projects/${project}/sets/${made.id}`);
  await expect(page.getByRole('list', { name: 'Objects on the set' }).getByRole('button')).toHaveCount(2);
  // The sheet in front comes when its shader does.
  await page.waitForTimeout(3000);
  const { width, height, data: pixels } = await settled(page, view(page));
  const at = (Math.floor(height / 2) * width + Math.floor(width / 2)) * 4;
  expect(pixels[at]! - pixels[at + 2]!).toBeGreaterThan(100);
});
