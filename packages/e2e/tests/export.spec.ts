import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { nodeDecoder } from '@estela/codecs/node';
import { Baker, check, parse, settingValues, type PixelImage } from '@estela/core';
import type { APIRequestContext, Page } from '@playwright/test';
import { unzipSync } from 'fflate';
import { JUDGE } from '../../core/test/judging.ts';
import { expect, test } from './support.ts';

const SIDE = 64;
const folder = mkdtempSync(join(tmpdir(), 'estela-export-'));
const decoder = nodeDecoder();

interface Listed {
  readonly id: string;
  readonly title: string;
  readonly text: string;
}

async function demo(request: APIRequestContext): Promise<{ readonly project: string; readonly materials: Listed[] }> {
  const [project] = (await (await request.get('/api/projects')).json()) as { id: string }[];
  const materials = (await (await request.get(`/api/projects/${project!.id}/materials`)).json()) as Listed[];
  return { project: project!.id, materials };
}

/** Pixels of the page that plays a package, rows from the top. */
const pixelsOf = (page: Page): Promise<number[]> =>
  page.evaluate((side) => {
    const gl = document.querySelector('canvas')!.getContext('webgl2')!;
    const bytes = new Uint8Array(side * side * 4);
    gl.readPixels(0, 0, side, side, gl.RGBA, gl.UNSIGNED_BYTE, bytes);
    return Array.from({ length: side }, (_, y) => [
      ...bytes.subarray((side - 1 - y) * side * 4).subarray(0, side * 4),
    ]).flat();
  }, SIDE);

test('the page of a package, opened from a folder, shows what is baked', async ({ page, request }) => {
  test.setTimeout(1_800_000);
  const faults: string[] = [];
  page.on('pageerror', (error) => faults.push(String(error)));
  page.on('request', (asked) => {
    if (!/^(file|data|blob):/.test(asked.url())) faults.push(`The network was asked for ${asked.url()}`);
  });
  const { materials } = await demo(request);
  expect(materials.length).toBeGreaterThan(10);
  for (const { id, title, text } of materials) {
    const answer = await request.get(`/api/materials/${id}/export.zip`);
    expect([title, answer.status()]).toEqual([title, 200]);
    const files = unzipSync(await answer.body());
    const path = join(folder, `${id}.html`);
    writeFileSync(path, files['index.html']!);
    const manifest = JSON.parse(
      Buffer.from(Object.entries(files).find(([name]) => name.endsWith('.json'))![1]).toString(),
    ) as {
      readonly shaders: readonly [{ readonly variants: readonly (string | null)[] }];
      readonly textures: readonly { readonly source: string; readonly file: string }[];
    };
    const images = new Map<string, PixelImage>();
    const { shaders, textures } = manifest;
    for (const { source, file } of textures) images.set(source, await decoder.decode(files[file]!));
    const program = check(parse(text));
    const frame = Math.floor(program.loop.frames * 0.3);
    // Variants of one shader differ by what its dials are set to: all of them only for the judges.
    const variants = program.variants.map((v) => v.name).filter((v) => JUDGE > 0 || !shaders[0].variants.includes(v));
    for (const variant of [undefined, ...variants]) {
      const query = new URLSearchParams({ time: String(frame / program.loop.fps), size: String(SIDE) });
      if (variant !== undefined) query.set('variant', variant);
      await page.goto(`${pathToFileURL(path).href}?${query}`);
      await page.waitForSelector('body[data-drawn]');
      const shown = await pixelsOf(page);
      const options = { output: 'color', width: SIDE, height: SIDE, samples: 1 } as const;
      const baked = Baker.of(program, settingValues(program, variant), options, ({ source }) =>
        images.get(source),
      )!.frame(frame);
      let wrong = 0;
      // Colour counts as far as it covers.
      const seen = (of: ArrayLike<number>, i: number, c: number): number =>
        c === 3 ? of[i + 3]! : (of[i + c]! * of[i + 3]!) / 255;
      for (let i = 0; i < baked.length; i += 4)
        if ([0, 1, 2, 3].some((c) => Math.abs(seen(baked, i, c) - seen(shown, i, c)) > 1.5)) wrong++;
      if (wrong > SIDE * SIDE * 0.005) faults.push(`${title}, ${String(variant)}: ${String(wrong)} pixels differ`);
    }
  }
  expect(faults).toEqual([]);
});

test('a material is played, compared and downloaded in the Export view', async ({ page, request }) => {
  const { materials } = await demo(request);
  const ribbon = materials.find((m) => m.title === 'Notice ribbon')!;
  await page.goto(`/materials/${ribbon.id}`);
  await page.getByRole('button', { name: 'Export' }).click();
  await expect(page).toHaveURL(new RegExp(`/materials/${ribbon.id}/export`));
  const compared = page.getByRole('region', { name: 'Compared with the bake' });
  await expect(compared).toContainText(/GLSL\s*same( to 1 of 255)?/, { timeout: 30_000 });
  await expect(page.getByLabel('notice-ribbon.glsl', { exact: true }).last()).toContainText('notice_ribbon_frame');
  await expect(page.frameLocator('iframe').getByRole('heading', { name: 'Notice ribbon' })).toBeVisible();
  await page.frameLocator('iframe').getByRole('button', { name: 'Play' }).click();
  await page.getByRole('checkbox', { name: 'HLSL, Shader Model 5' }).click();
  await expect(page.getByRole('region', { name: 'In the package' })).not.toContainText('hlsl');
  const loading = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Download notice-ribbon.zip' }).click();
  const path = await (await loading).path();
  const same = await request.get(`/api/materials/${ribbon.id}/export.zip?target=glsl,wgsl,c,js`);
  expect(Buffer.compare(readFileSync(path), await same.body())).toBe(0);
});

test('what cannot leave says why, and images can be left out knowingly', async ({ page, request }) => {
  const { project } = await demo(request);
  const make = async (text: string): Promise<string> => {
    const answer = await request.post(`/api/projects/${project}/materials`, { data: { text } });
    return ((await answer.json()) as Listed).id;
  };
  const broken = await make('material "Broken"\nloop 2s at 30fps\nout color = nothing\n');
  await page.goto(`/materials/${broken}/export`);
  await expect(page.getByRole('alert')).toContainText(/It has errors: .*nothing/);
  const lacks = await make(
    'material "Lacks"\nloop 2s at 30fps\nimage a = "nowhere.png"\nout color = (uv |> sample(a)).rgb\n',
  );
  await page.goto(`/materials/${lacks}/export`);
  await expect(page.getByRole('alert')).toContainText('nowhere.png');
  await page.getByRole('button', { name: 'Leave it out' }).click();
  await expect(page.getByRole('button', { name: 'Download lacks.zip' })).toBeEnabled();
  await page.goto('/');
  await page.getByRole('button', { name: 'Export packages' }).first().click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('checkbox', { name: /^All/ }).click();
  for (const title of ['Petal ward', 'Lacks']) await dialog.getByRole('checkbox', { name: title, exact: true }).click();
  await dialog.getByRole('button', { name: 'Download' }).click();
  await expect(dialog.getByRole('alert')).toContainText('"Lacks" cannot be exported');
  await dialog.getByRole('checkbox', { name: 'Leave out images that are missing' }).click();
  const loading = page.waitForEvent('download');
  await dialog.getByRole('button', { name: 'Download' }).click();
  const names = Object.keys(unzipSync(readFileSync(await (await loading).path())));
  expect(names).toEqual(
    expect.arrayContaining(['petal-ward/index.html', 'petal-ward/petal-ward.glsl', 'lacks/lacks.json']),
  );
  for (const id of [broken, lacks]) await request.delete(`/api/materials/${id}`, { headers: { 'If-Match': '"1"' } });
});
