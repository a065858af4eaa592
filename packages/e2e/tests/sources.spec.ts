import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Locator, Page } from '@playwright/test';
import { PNG } from 'pngjs';
import {
  demoId,
  demoPart,
  difference,
  expect,
  expectAccessible,
  goToFrame,
  makeMaterial,
  openDemo,
  openMaterial,
  pictureOf,
  projectId,
  score,
  stage,
  takeOver,
  test,
} from './support.ts';

const folder = mkdtempSync(join(tmpdir(), 'estela-files-'));
/** A file written by ImageMagick, which is none of our encoders. */
function made(name: string, ...options: readonly string[]): string {
  const path = join(folder, name);
  execFileSync('convert-im6.q16', [...options, path]);
  return path;
}
/** Coloured noise, lit from the left, as a photograph might be: nothing meets at its edges. */
const photograph = [
  '-size',
  '128x128',
  '-seed',
  '3',
  'plasma:grey20-grey80',
  '(',
  '-size',
  '128x128',
  'gradient:white-grey40',
  '-rotate',
  '90',
  ')',
  '-compose',
  'multiply',
  '-composite',
  '-depth',
  '8',
];

interface Stored {
  id: string;
  name: string;
  width: number;
  height: number;
  bits: number;
  hash: string;
  recipe: {
    kind: string;
    drawing: { points: { x: number; y: number; width: number }[]; closed: boolean; size: number };
  } | null;
}
const stored = async (page: Page): Promise<Stored[]> =>
  (await (await page.request.get(`/api/projects/${await projectId(page)}/sources`)).json()) as Stored[];
const sourceNamed = async (page: Page, name: string): Promise<Stored> =>
  (await stored(page)).find((s) => s.name === name)!;
async function openSources(page: Page): Promise<void> {
  await takeOver(page, ['mist-a.png']);
  await page.goto(`/projects/${await projectId(page)}/sources`);
  await expect(page.getByRole('button', { name: 'Import files' })).toBeVisible();
  await expect(page.getByRole('list', { name: 'Sources' })).toContainText('mist-a.png');
}
async function openSource(page: Page, name: string): Promise<void> {
  await page.goto(`/projects/${await projectId(page)}/sources/${(await sourceNamed(page, name)).id}`);
}
async function bringIn(page: Page, ...paths: readonly string[]): Promise<void> {
  await page.locator('input[type=file][multiple]').setInputFiles([...paths]);
}
const tray = (page: Page): Locator => page.getByRole('region', { name: 'Imported files' });
/** The meter's number for a pair of edges. */
const ratio = async (page: Page, edges: 'Left and right edge' | 'Top and bottom edge'): Promise<number> => {
  const text = await page.getByRole('group', { name: edges }).textContent({ timeout: 60_000 });
  return Number(/edge\s*([\d.]+)/.exec(text ?? '')?.[1]);
};

test('brings in every kind of file, refuses what it must and goes on', async ({ page }) => {
  const good = [
    made('deep.png', '-size', '40x24', 'gradient:red-blue', '-depth', '16', '-define', 'png:bit-depth=16'),
    made('flat.png', '-size', '64x32', 'plasma:red-blue', '-depth', '8'),
    made('photo.jpg', '-size', '48x32', 'plasma:red-blue'),
    made('leaf.webp', '-size', '36x20', 'plasma:green-yellow'),
    made('runs.tga', '-size', '33x17', 'gradient:red-blue', '-depth', '8', '-compress', 'RLE'),
    made('plain.tga', '-size', '20x30', 'plasma:red-blue', '-depth', '8', '-compress', 'none'),
    made('still.gif', '-size', '24x24', 'plasma:red-blue', '-colors', '32'),
    made('moving.gif', '-delay', '10', '-size', '16x16', 'xc:red', 'xc:lime', 'xc:blue', 'xc:white'),
  ];
  const cut = join(folder, 'cut.png');
  writeFileSync(cut, readFileSync(good[1]!).subarray(0, 900));
  const huge = join(folder, 'huge.png');
  const header = Buffer.from(readFileSync(good[1]!));
  header.writeUInt32BE(30000, 16);
  header.writeUInt32BE(30000, 20);
  writeFileSync(huge, header);
  const text = join(folder, 'notes.png');
  writeFileSync(text, 'These are no pixels.');

  await openSources(page);
  await bringIn(page, cut, ...good.slice(0, 4), huge, text, ...good.slice(4));
  await expect(tray(page)).toContainText('"cut.png" is a broken PNG file');
  await expect(tray(page)).toContainText('"huge.png" is 30000 x 30000 pixels, 900 million; the limit is 64 million.');
  await expect(tray(page)).toContainText('"notes.png" is not an image Estela can read');
  await page.getByRole('button', { name: 'All 4 as a flipbook sheet' }).click();
  await expect(tray(page).getByRole('status')).toHaveText('8 of 11 imported, 3 refused');
  await expectAccessible(page);

  const list = await stored(page);
  const found = (name: string): unknown => {
    const source = list.find((s) => s.name === name);
    return source && [source.width, source.height, source.bits, source.recipe?.kind];
  };
  expect(found('deep.png')).toEqual([40, 24, 16, undefined]);
  expect(found('flat.png')).toEqual([64, 32, 8, undefined]);
  expect(found('photo.jpg')).toEqual([48, 32, 8, undefined]);
  expect(found('leaf.webp')).toEqual([36, 20, 8, undefined]);
  expect(found('runs.tga')).toEqual([33, 17, 8, undefined]);
  expect(found('plain.tga')).toEqual([20, 30, 8, undefined]);
  expect(found('still.gif')).toEqual([24, 24, 8, undefined]);
  expect(found('moving-sheet.png')).toEqual([32, 32, 8, 'sheet']);

  // The same names again: one is replaced, one kept beside, one left out.
  await page.getByRole('button', { name: 'Clear the list' }).click();
  await bringIn(page, made('flat.png', '-size', '16x16', 'xc:red'), good[2]!, good[3]!);
  const line = (name: string): Locator => tray(page).getByRole('listitem').filter({ hasText: name });
  await line('flat.png').getByRole('button', { name: 'Replace' }).click();
  await line('photo.jpg').getByRole('button', { name: 'Keep both' }).click();
  await line('leaf.webp').getByRole('button', { name: 'Skip' }).click();
  await expect(tray(page).getByRole('status')).toHaveText('2 of 3 imported');
  expect(await sourceNamed(page, 'flat.png')).toMatchObject({ width: 16 });
  expect((await sourceNamed(page, 'photo 2.jpg')).hash).toBe((await sourceNamed(page, 'photo.jpg')).hash);

  // Undo takes the second photograph away, then brings the first flat picture back.
  await page.getByRole('button', { name: 'Undo: import photo 2.jpg' }).click();
  await page.getByRole('button', { name: 'Undo: replace flat.png' }).click();
  await expect(page.getByRole('link', { name: 'Open photo 2.jpg' })).toHaveCount(0);
  await expect(async () => {
    expect(await sourceNamed(page, 'flat.png')).toMatchObject({ width: 64 });
  }).toPass();
});

test('takes files that are dropped and pasted', async ({ page }) => {
  await openSources(page);
  const bytes = [...readFileSync(made('dropped.png', '-size', '8x8', 'xc:orange'))];
  await page.evaluate(
    ([data]) => {
      const file = (name: string): DataTransfer => {
        const transfer = new DataTransfer();
        transfer.items.add(new File([Uint8Array.from(data)], name, { type: 'image/png' }));
        return transfer;
      };
      document
        .querySelector('main')!
        .dispatchEvent(new DragEvent('drop', { dataTransfer: file('dropped.png'), bubbles: true, cancelable: true }));
      window.dispatchEvent(
        new ClipboardEvent('paste', { clipboardData: file('pasted.png'), bubbles: true, cancelable: true }),
      );
    },
    [bytes] as const,
  );
  await expect(page.getByRole('link', { name: 'Open dropped.png' })).toBeVisible();
  await expect(page.getByRole('link', { name: 'Open pasted.png' })).toBeVisible();
});

test('measures a cut photograph, and makes it tileable two ways', async ({ page }) => {
  await openSources(page);
  await bringIn(page, made('bark.png', ...photograph));
  await page.getByRole('link', { name: 'Open bark.png' }).click();
  const before = [await ratio(page, 'Left and right edge'), await ratio(page, 'Top and bottom edge')];
  expect(Math.min(...before)).toBeGreaterThan(2.5);
  await page.getByRole('button', { name: 'Show the worst places' }).click();
  await expectAccessible(page);

  for (const way of ['Blend', 'Patch']) {
    await openSource(page, 'bark.png');
    await page.getByRole('button', { name: 'Make tileable' }).click();
    const group = page.getByRole('group', { name: way, exact: true });
    await expect(group.getByRole('button', { name: 'Save as a new source' })).toBeEnabled();
    if (way === 'Blend') await expectAccessible(page);
    await group.getByRole('button', { name: 'Save as a new source' }).click();
    await expect(page.getByRole('heading', { level: 1 })).toContainText('bark-tiling');
    for (const edges of ['Left and right edge', 'Top and bottom edge'] as const)
      await expect(async () => {
        expect(await ratio(page, edges)).toBeLessThan(1.8);
      }).toPass();
  }
  await page.getByRole('button', { name: 'Undo: make bark.png tileable' }).click();
  await expect(async () => {
    expect((await stored(page)).filter((s) => s.name.startsWith('bark-tiling'))).toHaveLength(1);
  }).toPass();
});

test('looks at channels and tiles closely', async ({ page }) => {
  await page.goto(`/projects/${await demoId(page)}/sources/${await demoPart(page, 'sources', 'fern-masks.png')}`);
  const picture = page.getByRole('img', { name: 'Picture of fern-masks.png' });
  await expect(page.getByRole('region', { name: 'Values' }).getByRole('group')).toHaveCount(4);
  const all = await pictureOf(picture);
  await page.getByRole('button', { name: 'B', exact: true }).click();
  await expect(async () => {
    const blue = await pictureOf(picture);
    expect(difference(all, blue)).toBeGreaterThan(0.05);
    for (let i = 0; i < blue.data.length; i += 404) expect(Math.abs(blue.data[i]! - blue.data[i + 2]!)).toBeLessThan(3);
  }).toPass();
  await page.getByRole('button', { name: '3x3' }).click();
  const tiled = await pictureOf(picture);
  await picture.hover();
  await page.mouse.wheel(0, -600);
  await expect(async () => {
    expect(difference(tiled, await pictureOf(picture))).toBeGreaterThan(0.02);
  }).toPass();
  await expect(page.getByRole('table')).toContainText('Fern portrait');
});

test('packs channels and moves the reads of a material', async ({ page }) => {
  const text = [
    'image front = "fern-front.png" clamp linear data',
    'image spores = "fern-spores.png" clamp linear data',
    'a = uv |> sample(front)',
    'out color = (a.r, (uv |> sample(spores)).r, 0)',
    '',
  ].join('\n');
  // Until an image is there its channel shows the test grid.
  await openMaterial(page, text.replace(/fern-\w+/g, 'none'));
  await goToFrame(page, 0);
  const grid = await pictureOf(stage(page));
  const id = await openMaterial(page, `material "Packs"\n${text}`);
  await goToFrame(page, 0);
  let before = grid;
  await expect(async () => {
    before = await pictureOf(stage(page));
    for (const channel of [0, 1]) {
      const apart = before.data.filter((v, i) => i % 4 === channel && Math.abs(v - grid.data[i]!) > 8).length;
      expect(apart).toBeGreaterThan(before.data.length / 40);
    }
  }).toPass();
  await openSources(page);
  await page.getByRole('button', { name: 'Pack channels' }).click();
  for (const [channel, name] of [
    ['Green', 'fern-front.png'],
    ['Alpha', 'fern-spores.png'],
  ] as const) {
    await page.getByRole('combobox', { name: `${channel} comes from` }).click();
    await page.getByRole('option', { name, exact: true }).click();
  }
  await page.getByRole('textbox', { name: 'Name of the new source' }).fill('two-in-one.png');
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Pack', exact: true }).click();
  await page.getByRole('button', { name: 'Move the reads of front, spores' }).click();
  await expect(page.getByText('moved in a new revision')).toBeVisible();
  const { text: after } = (await (await page.request.get(`/api/materials/${id}`)).json()) as { text: string };
  expect(after).toBe(
    [
      'material "Packs"',
      'image front = "two-in-one.png" clamp linear data',
      'a = uv |> sample(front)',
      'out color = (a.g, (uv |> sample(front)).a, 0)',
      '',
    ].join('\n'),
  );
  await page.goto(`/materials/${id}`);
  await expect(score(page)).toBeVisible();
  await goToFrame(page, 0);
  await expect(async () => {
    expect(difference(before, await pictureOf(stage(page)))).toBeLessThan(0.002);
  }).toPass();
});

test('bakes a step, knows when it is stale and bakes it again', async ({ page }) => {
  const id = await openMaterial(page, 'material "Baked"\nlevel = uv.x * 0.5\nout color = level\n');
  await page.getByRole('button', { name: 'Bake', exact: true }).click();
  await page.getByRole('button', { name: 'Single picture' }).click();
  await page.getByRole('combobox', { name: 'Step' }).click();
  await page.getByRole('option', { name: 'level' }).click();
  await page.getByRole('combobox', { name: 'Width' }).click();
  await page.getByRole('option', { name: '64', exact: true }).click();
  await page.getByRole('textbox', { name: 'Name' }).fill('level.png');
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Bake', exact: true }).click();
  await page.getByRole('link', { name: 'level.png' }).click();
  await expect(page.getByText('up to date with its material')).toBeVisible();
  const fresh = await sourceNamed(page, 'level.png');
  expect(fresh).toMatchObject({ width: 64, height: 512 });

  await page.request.put(`/api/materials/${id}`, {
    headers: { 'If-Match': '"1"' },
    data: { text: 'material "Baked"\nlevel = uv.x * 0.25\nout color = level\n' },
  });
  await openSources(page);
  await expect(page.getByRole('listitem').filter({ hasText: 'level.png' })).toContainText('stale');
  await openSource(page, 'level.png');
  await page.getByRole('button', { name: 'Bake again' }).click();
  await expect(page.getByText('up to date with its material')).toBeVisible();
  const { data } = PNG.sync.read(
    Buffer.from(await (await page.request.get(`/api/sources/${fresh.id}/content`)).body()),
  );
  expect(data[63 * 4]).toBe(Math.round((63.5 / 64) * 0.25 * 255));
});

test('edits a ramp in place, one drag one undo', async ({ page }) => {
  const start = 'ramp fire = 0% #000000, 50% #ff0000, 100% #ffffff\nout color = uv.x |> ramp(fire)\n';
  await openMaterial(page, start);
  const line = (): Promise<string> => score(page).locator('.cm-line').first().innerText();
  await page.getByRole('button', { name: 'Edit the ramp fire' }).click();
  const stop = page.getByRole('slider', { name: 'Stop 2 of 3' });
  const box = (await stop.boundingBox())!;
  await page.mouse.move(box.x + 7, box.y + 10);
  await page.mouse.down();
  await page.mouse.move(box.x - 80, box.y + 10, { steps: 6 });
  await page.mouse.move(box.x - 160, box.y + 12, { steps: 6 });
  await page.mouse.up();
  await expect.poll(line).toMatch(/ramp fire = 0% #000000, 2\d(\.\d+)?% #ff0000, 100% #ffffff/);
  await expectAccessible(page);
  await page.getByRole('button', { name: 'smooth', exact: true }).click();
  await page.getByRole('button', { name: 'Reverse' }).click();
  await expect.poll(line).toMatch(/0% #ffffff, 7\d(\.\d+)?% #ff0000, 100% #000000 smooth/);
  await page.getByRole('button', { name: 'Spread evenly' }).click();
  await page.getByTitle('Click to add a stop').click({ position: { x: 100, y: 18 } });
  await expect(page.getByRole('slider', { name: /Stop \d of 4/ })).toHaveCount(4);
  await page.getByRole('slider', { name: 'Stop 2 of 4' }).press('Delete');
  await expect(page.getByRole('slider', { name: /Stop \d of 3/ })).toHaveCount(3);
  for (let i = 0; i < 6; i++) {
    await score(page).focus();
    await page.keyboard.press('Control+z');
  }
  await expect.poll(line).toContain('ramp fire = 0% #000000, 50% #ff0000, 100% #ffffff');

  await page
    .locator('input[aria-label="Ramp picture"]')
    .setInputFiles(made('row.png', '-size', '1x64', 'gradient:red-blue', '-rotate', '-90', '-depth', '8'));
  await expect(page.getByRole('tabpanel', { name: 'Ramp fire' })).toContainText(/read as \d+ stops/);
  await expect.poll(line).toMatch(/#ff0000.*#0000ff/);
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Export PNG' }).click();
  const file = PNG.sync.read(readFileSync(await (await download).path()));
  expect([file.width, file.height, ...file.data.subarray(0, 3)]).toEqual([256, 1, 255, 0, 0]);
});

test('draws a path, and what follows it stays on it', async ({ page }) => {
  await openSources(page);
  await page.getByRole('button', { name: 'Draw a path map' }).click();
  const square = page.getByRole('application', { name: 'The path on the UV square' });
  const box = (await square.boundingBox())!;
  const at = (x: number, y: number): [number, number] => [box.x + x * box.width, box.y + y * box.height];
  const drag = async (name: string, x: number, y: number): Promise<void> => {
    const handle = (await page.getByRole('button', { name }).boundingBox())!;
    await page.mouse.move(handle.x + handle.width / 2, handle.y + handle.height / 2);
    await page.mouse.down();
    await page.mouse.move(...at(x, y), { steps: 5 });
    await page.mouse.up();
  };
  await drag('Point 1 of 4', 0.2, 0.25);
  await drag('Point 4 of 4', 0.8, 0.75);
  // A click beside the curve adds a point at its end.
  await page.mouse.click(...at(0.35, 0.85));
  await page.getByRole('checkbox', { name: 'Closed' }).check();
  await expect(page.getByRole('status', { name: 'Saving' })).toHaveText('saved');
  await expectAccessible(page);
  const name = (await page.getByRole('heading', { level: 1 }).textContent())!;
  const { recipe } = await sourceNamed(page, name);
  expect(recipe?.drawing.points).toHaveLength(5);
  expect(recipe?.drawing.points[0]).toMatchObject({ x: expect.closeTo(0.2, 2), y: expect.closeTo(0.25, 2) });
  expect(recipe?.drawing.closed).toBe(true);

  // One lamp on the way; where it is must be where the curve is, by arc length, at each moment.
  const { flattenPath } = await import('@estela/core');
  const samples = flattenPath(recipe!.drawing);
  await openMaterial(
    page,
    [
      'loop 4s at 30fps',
      `image path_map = "${name}" repeat linear data`,
      'path = uv |> sample(path_map)',
      'run = path |> follow(1 lap)',
      'out color = (1 - (abs(fract(run.x) - 0.5) |> rise(0.012, 0.016))) * path.z * (abs(path.y - 0.5) |> below(0.2))',
      '',
    ].join('\n'),
  );
  for (const frame of [0, 17, 45, 60, 90, 119]) {
    await goToFrame(page, frame);
    const along = (0.5 + frame / 120) % 1;
    const expected = samples.reduce((best, s) => (Math.abs(s.along - along) < Math.abs(best.along - along) ? s : best));
    await expect(async () => {
      const picture = await pictureOf(stage(page));
      const size = Math.floor(Math.min(picture.width, picture.height) * 0.94);
      const [left, top] = [Math.floor((picture.width - size) / 2), Math.floor((picture.height - size) / 2)];
      let [x, y, n] = [0, 0, 0];
      for (let i = 0; i < picture.data.length; i += 4) {
        const [px, py] = [(i / 4) % picture.width, Math.floor(i / 4 / picture.width)];
        if (picture.data[i]! < 150 || px < left || px >= left + size || py < top || py >= top + size) continue;
        x += (px + 0.5 - left) / size;
        y += (py + 0.5 - top) / size;
        n++;
      }
      expect(n).toBeGreaterThan(10);
      // The lamp is up to 0.06 long, and its middle lies inside a bend.
      expect(Math.hypot(x / n - expected.x, y / n - expected.y)).toBeLessThan(0.02);
    }).toPass();
  }
});

test('paints a flow map and keeps its strokes', async ({ page }) => {
  await openSources(page);
  await page.getByRole('button', { name: 'Paint a flow map' }).click();
  const box = (await page.getByRole('application', { name: 'Strokes on the UV square' }).boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.3, box.y + box.height * 0.5);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.7, box.y + box.height * 0.5, { steps: 12 });
  await page.mouse.up();
  await expect(page.getByRole('status', { name: 'Saving' })).toHaveText('saved');
  await expectAccessible(page);
  const name = (await page.getByRole('heading', { level: 1 }).textContent())!;
  const source = await sourceNamed(page, name);
  const read = async (): Promise<PNG> =>
    PNG.sync.read(Buffer.from(await (await page.request.get(`/api/sources/${source.id}/content`)).body()), {
      skipRescale: true,
    });
  const middle = (picture: PNG): number[] =>
    [...picture.data.subarray((128 * 256 + 128) * 4, (128 * 256 + 128) * 4 + 2)].map((v) => v / 65535);
  const [right, up] = middle(await read());
  expect(right).toBeGreaterThan(0.75);
  expect(up).toBeCloseTo(0.5, 1);
  await page.reload();
  await page.getByRole('button', { name: 'Remove the last stroke' }).click();
  await expect.poll(async () => middle(await read())[0]).toBeCloseTo(0.5, 3);
  // The same by keys: from the middle of the square to the left.
  await page.getByRole('application', { name: 'Strokes on the UV square' }).focus();
  await page.keyboard.press('Enter');
  for (let i = 0; i < 4; i++) await page.keyboard.press('Shift+ArrowLeft');
  await page.keyboard.press('Enter');
  await expect.poll(async () => middle(await read())[0]).toBeLessThan(0.25);
  await page.getByRole('button', { name: 'Undo: paint a stroke' }).click();
  await page.getByRole('button', { name: 'Undo: remove the last stroke' }).click();
  await expect.poll(async () => middle(await read())[0]).toBeGreaterThan(0.75);
});

test('explains a dissolve: curves that move, shares, a marked pixel, a mask turned in the text', async ({ page }) => {
  await openMaterial(
    page,
    [
      'loop 4s at 30fps',
      'ramp ember = 0% #ff000000, 100% #ffff00',
      'ward = #3060a0 |> dissolve(uv.x, phase, edge: 0.2, ramp: ember, core: 0.5)',
      'out color = ward',
      '',
    ].join('\n'),
  );
  await goToFrame(page, 0);
  await page.getByRole('button', { name: 'Explain the dissolve of ward' }).click();
  const shares = page.getByRole('status', { name: 'Shares of the surface' });
  await expect(shares).toContainText('hidden 100%, burning 0%, shown 0%');
  await goToFrame(page, 60);
  // The front stands at 0.5 * 1.2: what is beyond is hidden, what is 0.2 behind is passed.
  await expect(shares).toContainText(/hidden (39|40|41)%, burning (19|20|21)%, shown (39|40|41)%/);
  const curves = page.getByRole('img', { name: 'Curves over the mask value' });
  const halfway = await pictureOf(curves);
  await goToFrame(page, 90);
  await expect(async () => {
    expect(difference(halfway, await pictureOf(curves))).toBeGreaterThan(0.005);
  }).toPass();
  const canvas = (await stage(page).boundingBox())!;
  const size = Math.floor(Math.min(canvas.width, canvas.height) * 0.94);
  const point = (): Promise<void> =>
    page.mouse.move(canvas.x + (canvas.width - size) / 2 + size * 0.25, canvas.y + canvas.height / 2);
  await point();
  await expect(shares).toContainText('The mask at the pointer is 0.25.');
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Invert the mask' }).click();
  await expect(score(page)).toContainText('dissolve(uv.x |> invert(), phase');
  await point();
  await expect(shares).toContainText('mask at the pointer is 0.75');
  await score(page).focus();
  await page.keyboard.press('Control+z');
  await expect(score(page)).toContainText('dissolve(uv.x, phase');
});

test('a replaced source is seen at once in a material that is open', async ({ page, context }) => {
  await openSources(page);
  await bringIn(page, made('sign.png', '-size', '16x16', 'xc:red'));
  await expect(page.getByRole('link', { name: 'Open sign.png' })).toBeVisible();
  await openMaterial(page, 'image sign = "sign.png"\nout color = uv |> sample(sign)\n');
  const middle = async (): Promise<number[]> => {
    const { data, width, height } = await pictureOf(stage(page));
    const at = (Math.floor(height / 2) * width + Math.floor(width / 2)) * 4;
    return [...data.subarray(at, at + 3)];
  };
  await expect.poll(middle).toEqual([255, 0, 0]);
  const other = await context.newPage();
  await openSource(other, 'sign.png');
  await other
    .locator('input[aria-label="File to replace it by"]')
    .setInputFiles(made('sign.png', '-size', '16x16', 'xc:#0000ff'));
  await expect(other.getByRole('button', { name: 'Undo: replace sign.png' })).toBeVisible();
  await expect.poll(middle).toEqual([0, 0, 255]);
  await other.getByRole('button', { name: 'Undo: replace sign.png' }).click();
  await expect.poll(middle).toEqual([255, 0, 0]);
});

test('renaming a source renames it in its materials, and undo takes both back', async ({ page }) => {
  await openSources(page);
  await bringIn(page, made('old-name.png', '-size', '8x8', 'xc:red'));
  await expect(page.getByRole('link', { name: 'Open old-name.png' })).toBeVisible();
  const id = await makeMaterial(page, 'image sign = "old-name.png" clamp\nout color = uv |> sample(sign)\n');
  const text = async (): Promise<string> =>
    ((await (await page.request.get(`/api/materials/${id}`)).json()) as { text: string }).text;
  await openSource(page, 'old-name.png');
  await page.getByRole('button', { name: 'Rename', exact: true }).click();
  await page.getByRole('textbox', { name: 'Name' }).fill('new-name.png');
  await page.getByRole('button', { name: 'Rename', exact: true }).last().click();
  await expect(page.getByRole('heading', { name: 'new-name.png' })).toBeVisible();
  await expect.poll(text).toContain('image sign = "new-name.png" clamp');
  await page.getByRole('button', { name: 'Undo: rename old-name.png' }).click();
  await expect(page.getByRole('heading', { name: 'old-name.png' })).toBeVisible();
  await expect.poll(text).toContain('image sign = "old-name.png" clamp');
  await page.getByRole('button', { name: 'Redo: rename old-name.png' }).click();
  await expect.poll(text).toContain('image sign = "new-name.png" clamp');
});

test('the demo shows sources of every make', async ({ page }) => {
  await page.goto(`/projects/${await demoId(page)}/sources`);
  for (const [name, kind] of [
    ['sap-way.png', 'path map'],
    ['moss-flow.png', 'flow map'],
    ['moss.png', 'made tileable'],
    ['fern-masks.png', 'packed channels'],
    ['ward-mask.png', 'baked from mask'],
  ] as const)
    await expect(
      page.getByRole('listitem').filter({ has: page.getByRole('link', { name: `Open ${name}` }) }),
    ).toContainText(kind);
  await expect(page.getByText('stale')).toHaveCount(0);
  await openDemo(page, 'petal-ward');
  // Only lines in sight are there to be clicked.
  await score(page).focus();
  await page.keyboard.press('Control+End');
  await page.getByRole('button', { name: 'Explain the dissolve of ward' }).click();
  await expect(page.getByRole('status', { name: 'Shares of the surface' })).toContainText(/hidden \d+%/);
});
