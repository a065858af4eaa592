import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { fileURLToPath } from 'node:url';
import { materialGlb } from '@estela/codecs/gltf';
import {
  Baker,
  check,
  compileOrThrow,
  parse,
  settingValues,
  shapeMesh,
  type Channel,
  type Program,
} from '@estela/core';
import type { Page } from '@playwright/test';
import { build } from 'vite';
import { pictureNamed } from '../../../demo/pictures.ts';
import type { SlotPictures } from '../glb-reader.ts';
import { demoId, dropOn, expect, expectAccessible, openMaterial, projectId, test } from './support.ts';

const { validateBytes } = createRequire(import.meta.url)('gltf-validator') as {
  validateBytes: (bytes: Uint8Array) => Promise<{ issues: { messages: { severity: number }[] } }>;
};

const SIDE = 46;
const demo = (path: string): string =>
  readFileSync(fileURLToPath(new URL(`../../../demo/${path}.wake`, import.meta.url)), 'utf8');
const own = (lines: string): string =>
  `material "Own"\nloop 2s at 30fps\nimage a = "mist-a.png" repeat linear color\n${lines}\n`;

/** What is read back: what of it plays as it should, and how well it is asked to. */
const JUDGED: readonly (readonly [name: string, text: string, slots: readonly string[]])[] = [
  ['a pan of an image', demo('starts/steady-rise'), ['baseColor']],
  ['a pan of a still pattern', demo('starts/slanted-rain'), ['baseColor']],
  ['a pan of tiles', demo('starts/marching-signs'), ['baseColor']],
  ['pixels', demo('starts/pixel-tiles'), ['baseColor']],
  ['one that spins', demo('starts/turning-vane'), ['baseColor']],
  ['one layer over a still shade', demo('starts/twin-shells'), ['baseColor']],
  ['a lit pane', demo('starts/glasshouse-pane'), ['baseColor', 'metallicRoughness', 'normal']],
  ['a lit drain', demo('materials/whirl-drain'), ['metallicRoughness', 'normal']],
  [
    'a swing',
    own('surface unlit opaque\nout color = uv |> offset(swing(-0.2, 0.3, 1 lap), 0.1) |> sample(a)'),
    ['baseColor'],
  ],
  ['a pulse', own('surface unlit opaque\nout color = (uv |> sample(a)) * swing(0.2, 1, 2 laps)'), ['baseColor']],
  [
    'a light that pulses as it turns',
    own(
      'surface lit opaque\nout color = (0.2, 0.3, 0.4)\nout emissive = (uv |> turn(20deg) |> pan(1 lap) |> sample(a)).rgb * (3, 2, 1) * swing(0.1, 0.3, 1 lap)',
    ),
    ['emissive'],
  ],
  ['a bulb at rest', demo('starts/breathing-bulb'), ['baseColor']],
  ['haze at rest', demo('materials/stray-haze'), ['baseColor']],
  [
    'a picture that turns',
    own('surface unlit blend\nout color = uv |> tile(2, 3) |> spin(-1 lap, pivot: (0.3, 0.6)) |> sample(a)'),
    ['baseColor'],
  ],
];

/** The outputs that each channel of a slot is of, component by component. */
const CHANNELS: Readonly<Record<string, readonly (readonly [channel: number, output: Channel, component: number])[]>> =
  {
    baseColor: [0, 1, 2, 3].map((i) => [i, 'color', i]),
    metallicRoughness: [
      [1, 'roughness', 0],
      [2, 'metallic', 0],
    ],
    normal: [0, 1, 2].map((i) => [i, 'normal', i]),
    emissive: [0, 1, 2].map((i) => [i, 'emissive', i]),
  };

/** The reader, as a script of the page. */
let script: Promise<string> | undefined;
const readerScript = (): Promise<string> =>
  (script ??= (async () => {
    const made = await build({
      configFile: false,
      logLevel: 'error',
      build: {
        write: false,
        lib: { entry: fileURLToPath(new URL('../glb-reader.ts', import.meta.url)), formats: ['iife'], name: 'reader' },
      },
    });
    const [output] = [made].flat() as { readonly output: readonly { readonly code?: string }[] }[];
    return output!.output[0]!.code!;
  })());

async function readBack(page: Page, bytes: Uint8Array, moments: readonly number[]): Promise<SlotPictures> {
  return page.evaluate(
    ([base64, times, side]) =>
      (
        window as unknown as {
          reader: { readSlots: (b: ArrayBuffer, t: readonly number[], s: number) => Promise<SlotPictures> };
        }
      ).reader.readSlots(Uint8Array.from(atob(base64), (c) => c.charCodeAt(0)).buffer, times, side),
    [Buffer.from(bytes).toString('base64'), moments, SIDE] as const,
  );
}

const bakerOf = (program: Program, output: Channel): Baker | undefined =>
  Baker.of(program, settingValues(program), { output, width: SIDE, height: SIDE, samples: 1 }, ({ source }) =>
    pictureNamed(source),
  );

test.describe('what another reader shows of a GLB', () => {
  for (const [name, text, slots] of JUDGED)
    test(name, async ({ page }) => {
      const program = check(parse(text));
      const { seconds, fps } = program.loop;
      const { bytes, report } = await materialGlb(program, {
        mesh: shapeMesh('plane', 1),
        meshName: 'plane',
        images: ({ source }) => pictureNamed(source),
        imageType: 'png',
        size: 1024,
        frames: 0,
      });
      const moments = [0, 0.137, 0.359, 0.618, 0.871].map((share) => share * seconds);
      await page.goto('about:blank');
      await page.addScriptTag({ content: await readerScript() });
      const read = await readBack(page, bytes, moments);
      const { outputs } = compileOrThrow(program).graph;
      for (const slot of slots) {
        const said = report.materials[0]!.slots.find((s) => s.slot === slot)!;
        expect([name, said.fidelity]).toEqual([
          name,
          expect.stringMatching(name.endsWith('at rest') ? 'baked' : /^(exact|keyed)$/),
        ]);
        let [off, worst, count] = [0, 0, 0];
        (said.fidelity === 'baked' ? [0] : moments).forEach((moment, m) => {
          const drawn = read[slot]![m]!;
          for (const [channel, output, component] of CHANNELS[slot]!) {
            if (!outputs.has(output)) continue;
            const baked = bakerOf(program, output)!.frame(moment * fps);
            for (let i = 0; i < drawn.length; i += 4) {
              // Colour counts as far as it covers: a bake has none where nothing does.
              const cover = slot === 'baseColor' && channel < 3 ? baked[i + 3]! / 255 : 1;
              const apart = Math.abs(drawn[i + channel]! - baked[i + component]!) * cover;
              count++;
              worst = Math.max(worst, apart);
              if (apart > 2) off++;
            }
          }
        });
        // Where an edge is sharper than a pixel of its texture, a filter softens it: most of all the creases of noise.
        const most = slot === 'normal' ? 0.05 : 0.02;
        expect([name, slot, off / count < most, off / count, worst]).toEqual([name, slot, true, off / count, worst]);
      }
    });
});

const HEAD = 'loop 2s at 30fps\nsurface unlit opaque two-sided\n';

test('a material leaves on a mesh with its report, plays from the file, and comes back to be opened', async ({
  page,
}) => {
  await openMaterial(
    page,
    `material "Slow drift"\n${HEAD}dial pace: laps = 1 in 0..4\nout color = (uv |> tile(2) |> pan(pace) |> gradient(cells: 3)) * (1, 0.5, 0.2)\nvariant "Fast" { pace = 3 }\n`,
  );
  await page.getByRole('button', { name: 'Export' }).click();
  await page.getByRole('tab', { name: 'glTF' }).click();
  const report = page.getByRole('region', { name: 'Playback in other viewers' });
  await expect(report.getByRole('region', { name: 'Slow drift', exact: true })).toContainText(
    'Plays exactly, 512 x 512 pixels',
  );
  await expect(report.getByRole('region', { name: 'Slow drift: Fast' })).toContainText('Plays exactly');
  const canvas = page.getByLabel('slow-drift, played from the file');
  await expect(canvas).toHaveAttribute('data-state', 'shown');
  await page.getByRole('combobox', { name: 'Variant shown' }).click();
  await page.getByRole('option', { name: 'Fast' }).click();
  await page.getByRole('combobox', { name: 'Mesh' }).click();
  await page.getByRole('option', { name: 'Cylinder' }).click();
  await page.getByRole('combobox', { name: 'Size' }).click();
  await page.getByRole('option', { name: '64 x 64' }).click();
  await expect(report).toContainText('64 x 64 pixels');
  await expectAccessible(page);
  // The choice stands in the address.
  await page.reload();
  await expect(report).toContainText('64 x 64 pixels');
  await expect(page.getByRole('combobox', { name: 'Mesh' })).toHaveText('Cylinder');
  const downloading = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Download slow-drift.glb' }).click();
  const file = readFileSync(await (await downloading).path());
  expect((await validateBytes(new Uint8Array(file))).issues.messages.filter((m) => m.severity < 2)).toEqual([]);

  await page.goto(`/projects/${await projectId(page)}/sources`);
  await dropOn(page.getByRole('main'), [{ name: 'drift.glb', bytes: file }]);
  const tray = page.getByRole('region', { name: 'Imported files' });
  await tray.getByRole('button', { name: 'Mesh, textures and materials' }).click();
  await expect(tray).toContainText('imported');
  await tray.getByRole('link', { name: 'Open Slow drift', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'Slow drift' })).toBeVisible();
  const [, id] = /materials\/([^/?]+)/.exec(page.url())!;
  const { text } = (await (await page.request.get(`/api/materials/${id!}`)).json()) as { text: string };
  expect(text).toContain('tile(2, 2) |> pan(right: 1 lap, up: 0 laps)');
  await expect(page.getByRole('button', { name: 'Loops at every setting' })).toBeVisible();
});

test('what changes in itself leaves still or as a flipbook, and what cannot leave is said', async ({ page }) => {
  await openMaterial(page, `material "Boil"\n${HEAD}out color = uv |> fbm(4, evolve: 1 lap)\n`);
  await page.getByRole('button', { name: 'Export' }).click();
  await page.getByRole('tab', { name: 'glTF' }).click();
  const report = page.getByRole('region', { name: 'Playback in other viewers' });
  await expect(report).toContainText('Still');
  await expect(report).toContainText('Line 4.');
  await page.getByRole('combobox', { name: 'Export as' }).click();
  await page.getByRole('option', { name: 'Flipbook, 8 frames' }).click();
  await expect(report).toContainText('Plays as a flipbook, 8 frames');
  await openMaterial(page, `material "Lost"\n${HEAD}image a = "nowhere.png"\nout color = uv |> sample(a)\n`);
  await page.getByRole('button', { name: 'Export' }).click();
  await page.getByRole('tab', { name: 'glTF' }).click();
  await expect(page.getByRole('alert')).toContainText('nowhere.png');
  await page.getByRole('button', { name: 'Leave it out' }).click();
  await expect(report).toContainText('Plays exactly');
});

test('a set leaves as a scene, and a mesh of Fit with a material', async ({ page }) => {
  const [set] = (await (await page.request.get(`/api/projects/${await demoId(page)}/sets`)).json()) as { id: string }[];
  await page.goto(`/projects/${await demoId(page)}/sets/${set!.id}`);
  await page.getByRole('button', { name: 'Export GLB' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('checkbox', { name: 'Copies as instances of one mesh' }).check();
  await dialog.getByRole('button', { name: 'Export and preview' }).click();
  await expect(dialog.getByRole('status')).toContainText('key light');
  await expectAccessible(page);
  const downloading = page.waitForEvent('download');
  await dialog.getByRole('button', { name: /Download/ }).click();
  const bytes = new Uint8Array(readFileSync(await (await downloading).path()));
  expect((await validateBytes(bytes)).issues.messages.filter((m) => m.severity < 2)).toEqual([]);

  const [mesh] = (await (await page.request.get(`/api/projects/${await demoId(page)}/meshes`)).json()) as {
    id: string;
  }[];
  await page.goto(`/projects/${await demoId(page)}/meshes/${mesh!.id}`);
  await page.getByRole('button', { name: 'Export GLB' }).click();
  await page.getByRole('menuitem', { name: 'With a material' }).click();
  await dialog.getByRole('combobox', { name: 'Material' }).click();
  await page.getByRole('option', { name: 'Sap line' }).click();
  await dialog.getByRole('button', { name: 'Export and preview' }).click();
  await expect(dialog.getByRole('status')).toContainText('Sap line: Vein');
  await expect(dialog.getByRole('button', { name: /Download/ })).toBeVisible();
});
