import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { readMesh } from '@estela/codecs/mesh';
import { paceOf, shapeMesh, type MeshData } from '@estela/core';
import type { Locator } from '@playwright/test';
import { MOTION } from '../playwright.config.ts';
import {
  difference,
  dropOn,
  expect,
  expectAccessible,
  goToFrame,
  makeMaterial,
  openMaterial,
  pictureOf,
  projectId,
  stage,
  storeMesh,
  test,
} from './support.ts';

const { validateBytes } = createRequire(import.meta.url)('gltf-validator') as {
  validateBytes: (bytes: Uint8Array) => Promise<{ issues: { messages: { severity: number }[] } }>;
};
const fixture = (name: string): Buffer => readFileSync(join(import.meta.dirname, '../../codecs/test/fixtures', name));

const PLAIN = 'loop 2s at 30fps\nsurface unlit opaque two-sided\nout color = (1, 1, 1) + uv.x * 0\n';
const bright = ({ data }: { readonly data: Buffer }): number => {
  let count = 0;
  for (let i = 0; i < data.length; i += 4) if (data[i]! > 200) count++;
  return count;
};

test('a mesh dropped on the Stage is dressed at once; one without UVs asks, and what is no mesh is refused in plain words', async ({
  page,
}) => {
  await openMaterial(page, PLAIN);
  await dropOn(stage(page), [{ name: 'ribbon-assimp.obj', bytes: fixture('ribbon-assimp.obj') }]);
  const select = page.getByRole('combobox', { name: 'Mesh' });
  await expect(select).toHaveText('ribbon-assimp');
  await expect(async () => expect(bright(await pictureOf(stage(page)))).toBeGreaterThan(2000)).toPass();
  await expectAccessible(page);

  // A glTF with its buffer beside it.
  await dropOn(stage(page), [
    { name: 'radial-assimp.gltf', bytes: fixture('radial-assimp.gltf') },
    { name: 'radial-assimp.bin', bytes: fixture('radial-assimp.bin') },
  ]);
  await expect(select).toHaveText('radial-assimp');

  await dropOn(stage(page), [
    { name: 'bare.obj', bytes: Buffer.from('v -1 -1 0\nv 1 -1 0\nv 1 1 0\nv -1 1 0\nf 1 2 3 4\n') },
  ]);
  await expect(page.getByText('OBJ, 2 triangles, no UVs')).toBeVisible();
  await page.getByRole('button', { name: 'Planar' }).click();
  await expect(select).toHaveText('bare');
  await page.goto(page.url());
  await expect(select).toHaveText('bare');
  // Laid flat, it reads the whole square.
  await page.getByRole('button', { name: 'Stretch', exact: true }).click();
  await expect(page.getByRole('status', { name: 'What the lens shows' })).toContainText('largest here 1.0:1');

  await dropOn(stage(page), [{ name: 'broken.glb', bytes: Buffer.from('glTF and nothing more') }]);
  await expect(page.getByText('"broken.glb" is a broken GLB file')).toBeVisible();
  await dropOn(stage(page), [{ name: 'alone.gltf', bytes: fixture('radial-assimp.gltf') }]);
  await expect(page.getByText('needs the file "radial-assimp.bin" beside it')).toBeVisible();
});

test('lenses on a mesh tell speed, seams and stretch', async ({ page }) => {
  const legend = page.getByRole('status', { name: 'What the lens shows' });
  // A quarter of a tile a second along u, on a plane of a metre.
  const id = await openMaterial(
    page,
    'loop 4s at 30fps\nsurface unlit opaque two-sided\nflow = uv |> pan(1 lap, heading: 0deg)\nout color = flow.x |> fract() |> band(0.4, 0.6, 0.05)\n',
    '?view=plane&lens=speed',
  );
  await expect(legend).toContainText('flow moves on the surface at 0.25 to 0.25 m/s');
  await page.getByRole('button', { name: 'Seams', exact: true }).click();
  await expect(legend).toContainText('no UV seams');
  await page.goto(`/materials/${id}?view=cylinder&lens=seams`);
  await expect(legend).toContainText('The material continues across all 12 seam edges');
  await expect(legend).toContainText('proven');
  await page.goto(`/materials/${id}?view=cube&lens=motion`);
  await expect(legend).toContainText('m/s');
  const amber = ({ data }: { readonly data: Buffer }): number => {
    let count = 0;
    for (let i = 0; i < data.length; i += 4)
      if (data[i]! > 200 && data[i + 1]! > 130 && data[i + 1]! < 200 && data[i + 2]! < 110) count++;
    return count;
  };
  await expect(async () => expect(amber(await pictureOf(stage(page)))).toBeGreaterThan(200)).toPass();
  await openMaterial(
    page,
    'loop 4s at 30fps\nsurface unlit opaque two-sided\nout color = (uv.x, uv.x, uv.x)\n',
    '?view=cylinder&lens=seams',
  );
  await expect(legend).toContainText('12 of 12 seam edges do not match');
});

test('Fit moves, straightens and paces UVs with undo, keeps them, and exports them clean', async ({ page }) => {
  const bent = shapeMesh('ribbon', 8);
  const id = await storeMesh(page, `strip ${String(Date.now())}`, {
    ...bent,
    uvs: bent.uvs.map((x, i) => (i % 2 === 0 ? 0.2 + x * 0.3 : 0.6 - x * 0.1)),
  });
  await page.goto(`/projects/${await projectId(page)}/meshes/${id}`);
  const status = page.getByRole('status').first();
  await expect(status).toHaveText('saved');
  await expect(page.getByRole('group', { name: '1 of 1 island' })).toBeVisible();
  await expectAccessible(page);

  await page.getByRole('button', { name: 'Straighten' }).click();
  await expect(page.getByRole('button', { name: 'Undo: straighten along u' })).toBeEnabled();
  await page.getByRole('button', { name: 'Planar' }).click();
  await page.keyboard.press('Control+z');
  const layout = page.getByRole('application', { name: 'UV layout' });
  for (const [key, title] of [
    ['ArrowRight', 'move'],
    ['[', 'rotate'],
    ['+', 'scale'],
  ] as const) {
    await layout.press(key);
    await expect(page.getByRole('button', { name: `Undo: ${title}` })).toBeEnabled();
    await page.keyboard.press('Control+z');
  }
  await page.getByRole('button', { name: 'Add edge loops' }).click();
  await expect(page.getByRole('button', { name: 'Undo: add 15 edge loops' })).toBeEnabled();
  const end = page.getByRole('slider', { name: 'Speed at 100 % of the path' });
  const before = Number(await end.getAttribute('aria-valuenow'));
  await end.press('PageUp');
  await end.press('PageUp');
  const speed = async (): Promise<number> => Number(await end.getAttribute('aria-valuenow'));
  await expect.poll(speed).toBeGreaterThan(before * 1.5);
  await expect(status).toHaveText('saved');

  const download = async (button: Locator): Promise<Uint8Array> => {
    const [file] = await Promise.all([page.waitForEvent('download'), button.click()]);
    return new Uint8Array(readFileSync(await file.path()));
  };
  await page.getByRole('button', { name: 'Export GLB' }).click();
  const glb = await download(page.getByRole('menuitem', { name: 'The mesh alone' }));
  const { issues } = await validateBytes(glb);
  expect(issues.messages.filter((m) => m.severity < 2)).toEqual([]);
  const { mesh } = await readMesh('strip.glb', glb);
  const us = [...mesh.uvs].filter((_, i) => i % 2 === 0);
  expect([Math.min(...us), Math.max(...us)]).toEqual([expect.closeTo(0, 4), expect.closeTo(1, 4)]);
  // Rows: those of the strip and the loops that were added.
  expect(new Set(us.map((u) => u.toFixed(4))).size).toBeGreaterThan(16);
  const obj = await readMesh('strip.obj', await download(page.getByRole('button', { name: 'Export OBJ' })));
  expect(obj.mesh.indices.length).toBe(mesh.indices.length);

  // What was fitted is there again, under the same lens.
  await page.getByRole('button', { name: 'Speed', exact: true }).click();
  await expect(page).toHaveURL(/lens=speed/);
  await page.reload();
  await expect(page.getByRole('button', { name: 'Speed', exact: true })).toHaveAttribute('aria-pressed', 'true');
  await expect(end).toBeVisible();
  await expect.poll(speed).toBeGreaterThan(before * 1.5);
  // What cannot be done is said, and changes nothing.
  await page.getByRole('button', { name: 'Unroll' }).click();
  await expect(page.getByRole('region', { name: 'UVs' }).getByRole('alert')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Undo', exact: true })).toBeDisabled();
});

test('an island or a face is selected on the mesh as in the layout', async ({ page }) => {
  const id = await storeMesh(page, `box ${String(Date.now())}`, shapeMesh('cube', 4));
  await makeMaterial(page, PLAIN);
  await page.goto(`/projects/${await projectId(page)}/meshes/${id}`);
  await expect(page.getByRole('group', { name: '0 of 6 islands' })).toBeVisible();
  const mesh = page.getByRole('img', { name: 'The mesh' });
  await expect(async () => {
    await mesh.click();
    await expect(page.getByRole('group', { name: '1 of 6 islands' })).toBeVisible({ timeout: 1000 });
  }).toPass();
  // All faces lie on the same square: it is known from the form alone which was meant.
  await page.getByRole('button', { name: 'Rotate left' }).click();
  await page.getByRole('button', { name: 'Select all' }).click();
  await expect(page.getByRole('group', { name: '6 of 6 islands' })).toBeVisible();
  await mesh.click({ modifiers: ['Shift'] });
  await expect(page.getByRole('group', { name: '5 of 6 islands' })).toBeVisible();
});

/** The same mesh with an island of its own for each quad, as an automatic unwrap makes them. */
function torn({ positions, normals, indices }: MeshData): MeshData {
  const cornersOf = [...indices];
  const pick = (values: Float32Array): Float32Array =>
    Float32Array.from(cornersOf.flatMap((v) => [...values.subarray(v * 3, v * 3 + 3)]));
  return {
    positions: pick(positions),
    normals: pick(normals),
    // Quads side by side, each upright in a column; the two triangles of one share its diagonal.
    uvs: Float32Array.from(
      cornersOf.flatMap((v, i) => {
        const quad = Math.floor(i / 6);
        const own = [...new Set(cornersOf.slice(quad * 6, quad * 6 + 6))].indexOf(v);
        return [quad * 0.1 + (own % 2) * 0.05, Math.floor(own / 2) * 0.4];
      }),
    ),
    indices: Uint32Array.from(cornersOf, (_, i) => i),
  };
}

test('a strip of quads that are islands of their own comes out straight; faces are selected by keys, separated and joined', async ({
  page,
}) => {
  const id = await storeMesh(page, `torn ${String(Date.now())}`, torn(shapeMesh('tube', 6)));
  await makeMaterial(page, PLAIN);
  await page.goto(`/projects/${await projectId(page)}/meshes/${id}`);
  const tools = (label: string | RegExp): Locator => page.getByRole('group', { name: label });
  await expect(tools(/^0 of \d+ islands$/)).toBeVisible();
  await page.getByRole('button', { name: 'Select all' }).click();
  await page.getByRole('button', { name: 'Straighten' }).click();
  await expect(tools('1 of 1 island')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Undo: straighten along u' })).toBeEnabled();
  const layout = page.getByRole('application', { name: 'UV layout' });
  await layout.press('f');
  await layout.press('Escape');
  await layout.press('PageDown');
  await layout.press('PageDown');
  const count = async (): Promise<number> =>
    Number(((await tools(/triangles?$/).getAttribute('aria-label')) ?? '').split(' ')[0]);
  await expect.poll(count).toBe(2);
  await layout.press('l');
  await expect.poll(count).toBeGreaterThan(4);
  await page.getByRole('button', { name: 'Separate faces' }).click();
  await page.getByRole('button', { name: 'Islands' }).click();
  await expect(tools('1 of 3 islands')).toBeVisible();
  await page.getByRole('button', { name: 'Select all' }).click();
  await page.getByRole('button', { name: 'Join edges' }).click();
  await expect(tools('1 of 1 island')).toBeVisible();
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect(tools('1 of 1 island')).toBeVisible();
});

test.describe('while it plays', () => {
  test.use(MOTION);
  test('a paced strip moves faster where it was spread, as seen on the surface', async ({ page }) => {
    // A large Stage, so that a pixel is little of the way that is measured.
    await page.setViewportSize({ width: 1500, height: 1300 });
    const id = await storeMesh(page, `sheet ${String(Date.now())}`, shapeMesh('plane', 1));
    await page.goto(`/projects/${await projectId(page)}/meshes/${id}`);
    await page.getByRole('textbox', { name: 'Edge loops to add' }).fill('40');
    await page.getByRole('button', { name: 'Add edge loops' }).click();
    const end = page.getByRole('slider', { name: 'Speed at 100 % of the path' });
    for (let i = 0; i < 3; i++) await end.press('PageUp');
    await expect(page.getByRole('status').first()).toHaveText('saved');
    const material = await openMaterial(
      page,
      'loop 4s at 30fps\nsurface unlit opaque two-sided\nflow = uv |> pan(1 lap, heading: 0deg)\nout color = flow.x |> fract() |> band(0.47, 0.53, 0.01)\n',
    );
    const even = await storeMesh(page, `even ${String(Date.now())}`, shapeMesh('plane', 1));
    /** Where the bar is, in pixels from the left. */
    const place = async (frame: number): Promise<number> => {
      await goToFrame(page, frame);
      let found = NaN;
      await expect(async () => {
        const { width, data } = await pictureOf(stage(page));
        let [sum, count] = [0, 0];
        for (let i = 0; i < data.length; i += 4)
          if (data[i]! > 200) {
            sum += (i / 4) % width;
            count++;
          }
        expect(count).toBeGreaterThan(100);
        const before = found;
        found = sum / count;
        expect(found).toBe(before);
      }).toPass();
      return found;
    };
    /**
     * How many times faster the bar runs near the right edge of the square than near its left: it stands in the middle
     * at first.
     */
    const hurry = async (mesh: string): Promise<number> => {
      await page.goto(`/materials/${material}?view=mesh-${mesh}`);
      await expect(page.getByRole('button', { name: 'Pause', exact: true })).toBeVisible();
      const [a, b] = [await place(70), await place(80)];
      const [c, d] = [await place(50), await place(55)];
      return (d - c) / 5 / ((b - a) / 10);
    };
    // The right is nearer to the camera, on either mesh.
    const measured = (await hurry(id)) / (await hurry(even));
    // What the stored UVs say of the same stretches of the square.
    const { mesh } = await readMesh(
      'sheet.glb',
      new Uint8Array(await (await page.request.get(`/api/meshes/${id}/content`)).body()),
    );
    const { metres } = paceOf(mesh, new Uint8Array(mesh.positions.length / 3).fill(1), 'u', 240)!;
    const mean = (from: number, to: number): number => {
      const some = metres.slice(Math.round(from * 240), Math.round(to * 240));
      return some.reduce((sum, m) => sum + m, 0) / some.length;
    };
    const wanted = mean(0.5 + 50 / 120, 0.5 + 55 / 120) / mean(70 / 120 - 0.5, 80 / 120 - 0.5);
    expect(wanted).toBeGreaterThan(1.4);
    expect(Math.abs(measured / wanted - 1)).toBeLessThan(0.1);
  });
});

test('the layout shows what is chosen, whatever happens to its graphics context; a deleted mesh comes back as it was', async ({
  page,
}) => {
  const name = `sheet to lose ${String(Date.now())}`;
  const id = await storeMesh(page, name, shapeMesh('plane', 200));
  await page.goto(`/projects/${await projectId(page)}/meshes/${id}`);
  const layout = page.getByRole('application', { name: 'UV layout' });
  await expect(page.getByRole('group', { name: '1 of 1 island' })).toBeVisible();
  /** How bright the middle of the square is. */
  const middle = async (): Promise<number> => {
    const { width, height, data } = await pictureOf(layout);
    return data[((Math.floor(height / 2) + 9) * width + Math.floor(width / 2) + 9) * 4]!;
  };
  await expect(async () => expect(await middle()).toBeGreaterThan(48)).toPass();
  await layout.click({ position: { x: 12, y: 12 } });
  await expect(page.getByRole('group', { name: '0 of 1 island' })).toBeVisible();
  await expect(async () => expect(await middle()).toBeLessThan(45)).toPass();
  await layout.press('a');
  await expect(async () => expect(await middle()).toBeGreaterThan(48)).toPass();
  const before = await pictureOf(layout);
  const triangles = layout.locator('canvas').nth(1);
  await triangles.evaluate((canvas: HTMLCanvasElement) => {
    const extension = canvas.getContext('webgl2')!.getExtension('WEBGL_lose_context')!;
    Object.assign(window, { extension });
    extension.loseContext();
  });
  await expect(async () => expect(await middle()).toBeLessThan(45)).toPass();
  await triangles.evaluate(() => {
    (window as unknown as { extension: WEBGL_lose_context }).extension.restoreContext();
  });
  await expect(async () => expect(difference(before, await pictureOf(layout))).toBe(0)).toPass();

  await page.getByRole('button', { name: 'More' }).click();
  await page.getByRole('menuitem', { name: 'Delete' }).click();
  await page.getByRole('button', { name: 'Delete mesh' }).click();
  await page.getByRole('button', { name: `Undo: delete ${name}` }).click();
  await expect(page.getByRole('link', { name: `Fit ${name}` })).toBeVisible();
  expect((await page.request.get(`/api/meshes/${id}`)).status()).toBe(200);
});
