import type { Page } from '@playwright/test';
import { shapeMesh, type MeshData } from '@estela/core';
import {
  difference,
  expect,
  expectAccessible,
  goToFrame,
  openMaterial,
  pictureOf,
  stage,
  storeMesh,
  test,
  writeAll,
  type Picture,
} from './support.ts';

const HEAD = (surface: string): string => `loop 4s at 30fps\nsurface ${surface}\n`;

/** Opens a material on a shape, still, before a backdrop. */
async function openOn(page: Page, text: string, shape: string, backdrop = 'plain'): Promise<void> {
  await page.addInitScript(
    (kept) => {
      localStorage.setItem('estela.scene', kept);
    },
    JSON.stringify({ environment: 'studio', backdrop, exposure: 0 }),
  );
  await openMaterial(page, text, `?view=${shape}`);
  await goToFrame(page, 0);
  await expect(page.getByRole('combobox', { name: 'Mesh' })).not.toHaveText('On a mesh');
}

/** The picture once it no longer changes: shaders and shapes come a moment later. */
async function settled(page: Page): Promise<Picture> {
  let before = await pictureOf(stage(page));
  await expect(async () => {
    const now = await pictureOf(stage(page));
    const change = difference(before, now);
    const varied = now.data.some((v, i) => i % 4 < 3 && Math.abs(v - now.data[i % 4]!) > 24);
    before = now;
    expect([change, varied]).toEqual([0, true]);
  }).toPass();
  return before;
}

/** Writes another text in place of the one that is shown, and waits for its picture, which must be another. */
async function changeTo(page: Page, text: string, shown: Picture): Promise<Picture> {
  await writeAll(page, text);
  await expect(async () => expect(difference(shown, await pictureOf(stage(page)))).toBeGreaterThan(0.0005)).toPass();
  return settled(page);
}

type Vector = readonly [number, number, number];
const dot = (a: Vector, b: Vector): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const scaled = (a: Vector, s: number): Vector => [a[0] * s, a[1] * s, a[2] * s];
const unit = (a: Vector): Vector => scaled(a, 1 / Math.hypot(...a));
const cross = (a: Vector, b: Vector): Vector => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
const plus = (a: Vector, b: Vector): Vector => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];

/** Where the camera stands at first, looking at the middle with 35 degrees from top to bottom. */
const EYE: Vector = [0.35, 0.25, 2.1];
function onScreen(point: Vector, { width, height }: Picture): { x: number; y: number } {
  const back = unit(EYE);
  const right = unit(cross([0, 1, 0], back));
  const up = cross(back, right);
  const from = plus(point, scaled(EYE, -1));
  const per = height / 2 / Math.tan((35 / 2) * (Math.PI / 180)) / -dot(from, back);
  return { x: width / 2 + dot(from, right) * per, y: height / 2 - dot(from, up) * per };
}

test('the highlight of the key light is where the half vector says', async ({ page }) => {
  await openOn(page, `${HEAD('lit opaque one-sided')}out color = uv.x * 0\nout roughness = 0.2\n`, 'sphere');
  const picture = await settled(page);
  const towards = unit([0.45, 0.72, 0.53]);
  // The view differs from place to place: a few rounds find the place whose normal is half way to the light.
  let normal: Vector = [0, 0, 1];
  for (let i = 0; i < 20; i++) normal = unit(plus(towards, unit(plus(EYE, scaled(normal, -0.5)))));
  const wanted = onScreen(scaled(normal, 0.5), picture);
  let [x, y, sum] = [0, 0, 0];
  for (let i = 0; i < picture.data.length; i += 4) {
    if (picture.data[i]! < 225) continue;
    x += (i / 4) % picture.width;
    y += Math.floor(i / 4 / picture.width);
    sum++;
  }
  expect(sum).toBeGreaterThan(20);
  expect(Math.hypot(x / sum - wanted.x, y / sum - wanted.y)).toBeLessThan(8);
  await expectAccessible(page);
});

test('a refracting sheet shifts what is behind it; an index of 1 does not', async ({ page }) => {
  const sheet = (index: string): string =>
    `${HEAD('lit blend two-sided')}n = uv |> disc(0.45, soft: 0.5)\nout color = uv.x * 0\nout opacity = 0\nout normal = n |> bump(0.4)\nout roughness = 0\nout refraction = ${index}\n`;
  await openOn(page, sheet('1'), 'plane', 'grid');
  const straight = await settled(page);
  const bent = await changeTo(page, sheet('1.4'), straight);
  const none = await changeTo(page, `${HEAD('lit blend two-sided')}out color = uv.x * 0\nout opacity = 0\n`, bent);
  expect(difference(straight, none)).toBeLessThan(0.01);
  expect(difference(bent, none)).toBeGreaterThan(0.05);
  // Rough, it blurs the lines behind it.
  const rough = await changeTo(page, sheet('1').replace('roughness = 0', 'roughness = 0.7'), none);
  const lines = (picture: Picture): number => {
    let sum = 0;
    const { x: left } = onScreen([-0.4, 0, 0], picture);
    const { x: right, y } = onScreen([0.4, 0, 0], picture);
    for (let x = Math.ceil(left); x < right; x++) {
      const at = (Math.round(y) * picture.width + x) * 4;
      sum += Math.abs(picture.data[at]! - picture.data[at + 4]!);
    }
    return sum;
  };
  expect(lines(rough)).toBeLessThan(lines(straight) / 3);
});

test('contact fades out at the floor that the surface meets', async ({ page }) => {
  await openOn(
    page,
    `${HEAD('unlit blend two-sided')}out color = (1, 0.2, 0.1) + uv.x * 0\nout opacity = contact(0.25)\n`,
    'plane',
    'room',
  );
  const picture = await settled(page);
  /** How much redder than grey it is at a height of the plane, in its middle. */
  const red = (height: number): number => {
    const { x, y } = onScreen([0, height, 0], picture);
    const at = (Math.round(y) * picture.width + Math.round(x)) * 4;
    return picture.data[at]! - picture.data[at + 2]!;
  };
  // The floor is 0.4 below the middle.
  expect(red(0.3)).toBeGreaterThan(100);
  expect(red(-0.39)).toBeLessThan(40);
  // The way to the floor is counted along the view, which is low here: a few centimetres up it is a quarter of a metre.
  expect(red(-0.375)).toBeGreaterThan(red(-0.39) + 15);
});

test('on the radial disc a pan downwards runs outward', async ({ page }) => {
  const text = `${HEAD('unlit opaque two-sided')}flow = uv |> pan(1 lap, heading: 270deg)\nout color = flow.y |> fract() |> band(0.05, 0.15, 0.01)\n`;
  await openOn(page, text, 'radial');
  const radius = async (frame: number): Promise<number> => {
    await goToFrame(page, frame);
    const picture = await settled(page);
    const middle = onScreen([0, 0, 0], picture);
    let [sum, count] = [0, 0];
    for (let i = 0; i < picture.data.length; i += 4) {
      if (picture.data[i]! < 200) continue;
      sum += Math.hypot(((i / 4) % picture.width) - middle.x, Math.floor(i / 4 / picture.width) - middle.y);
      count++;
    }
    return sum / count;
  };
  const [near, far] = [await radius(20), await radius(70)];
  expect(far / near).toBeGreaterThan(2);
});

test('unlit materials keep their colours on a mesh, whatever the light', async ({ page }) => {
  await openOn(page, `${HEAD('unlit opaque two-sided')}out color = (0.5, 0.25, 0.75) + uv.x * 0\n`, 'plane');
  const { data, width, height } = await settled(page);
  const at = (Math.floor(height / 2) * width + Math.floor(width / 2)) * 4;
  // sRGB of 0.5, 0.25 and 0.75, by IEC 61966-2-1.
  [188, 137, 225].forEach((v, c) => expect(Math.abs(data[at + c]! - v)).toBeLessThanOrEqual(1));

  // Keys turn the view there and back; one that does nothing shows where they go.
  await stage(page).press('Shift');
  const before = await settled(page);
  await stage(page).press('ArrowRight');
  await expect(async () => expect(difference(before, await pictureOf(stage(page)))).toBeGreaterThan(0.005)).toPass();
  await stage(page).press('ArrowLeft');
  await expect(async () => expect(difference(before, await pictureOf(stage(page)))).toBeLessThan(0.001)).toPass();
});

/** sRGB of linear light, by IEC 61966-2-1, 0..255. */
const coded = (light: number): number =>
  255 * (light <= 0.0031308 ? light * 12.92 : 1.055 * light ** (1 / 2.4) - 0.055);
/** The colour at a place of the plane, whose middle is that of the Stage. */
function colorAt(picture: Picture, x: number, y: number): number[] {
  const place = onScreen([x, y, 0], picture);
  const at = (Math.round(place.y) * picture.width + Math.round(place.x)) * 4;
  return [0, 1, 2].map((c) => picture.data[at + c]!);
}
function expectColor(got: readonly number[], wanted: readonly number[]): void {
  wanted.forEach((v, c) => {
    expect(Math.abs(got[c]! - v)).toBeLessThanOrEqual(1.5);
  });
}

test('surfaces cover, add, cut and hide their backs as they say, over the grey of the Stage', async ({ page }) => {
  const bare = [19, 19, 19];
  const grey = ((19 / 255 + 0.055) / 1.055) ** 2.4;
  const still = 'out color = (0.5, 0.25, 0.75) + uv.x * 0\n';
  await openOn(page, `${HEAD('unlit blend two-sided')}${still}out opacity = uv.x |> above(0.5)\n`, 'plane');
  const blend = await settled(page);
  expectColor(colorAt(blend, -0.25, 0), bare);
  expectColor(colorAt(blend, 0.25, 0), [0.5, 0.25, 0.75].map(coded));
  const add = await changeTo(page, `${HEAD('unlit add two-sided')}${still}out opacity = 0.25 + uv.y * 0\n`, blend);
  expectColor(
    colorAt(add, 0.1, 0.1),
    [0.5, 0.25, 0.75].map((c) => coded(grey + c * 0.25)),
  );
  // The opacity goes from 0 at the left to 1, and what is under the cutoff is not there.
  const mask = await changeTo(
    page,
    `${HEAD('unlit mask two-sided')}${still}out opacity = uv.x\nout cutoff = 0.7\n`,
    add,
  );
  expectColor(colorAt(mask, 0.15, 0.2), bare);
  expectColor(colorAt(mask, 0.25, 0.2), [0.5, 0.25, 0.75].map(coded));
  // The same plane with its triangles the other way round is seen from behind.
  const plane = shapeMesh('plane', 1);
  const away = await storeMesh(page, `away ${String(Date.now())}`, {
    ...plane,
    indices: plane.indices.slice().reverse(),
    normals: plane.normals.map((x) => -x),
  });
  const both = `${HEAD('unlit opaque two-sided')}out color = (uv.x, 1, 0)\n`;
  await openOn(page, both, `mesh-${away}`);
  const seen = await settled(page);
  const covered = ({ data }: Picture): number => data.filter((v, i) => i % 4 === 1 && v > 200).length;
  expect(covered(seen)).toBeGreaterThan(5000);
  await writeAll(page, both.replace('two-sided', 'one-sided'));
  await expect.poll(async () => covered(await pictureOf(stage(page)))).toBe(0);
});

test('normals lie in the frame of the UVs, turned and mirrored with them', async ({ page }) => {
  const tilted = (x: string, y: string): string =>
    `${HEAD('lit opaque one-sided')}out color = (0.6, 0.6, 0.6) + uv.x * 0\nout roughness = 1\nout normal = (${x}, ${y}, 0.8)\n`;
  const stamp = String(Date.now());
  const laid = async (name: string, map: (u: number, v: number) => readonly [number, number]): Promise<string> => {
    const mesh: MeshData = shapeMesh('plane', 2);
    const uvs = mesh.uvs.slice();
    for (let i = 0; i < uvs.length; i += 2) uvs.set(map(uvs[i]!, uvs[i + 1]!), i);
    return `mesh-${await storeMesh(page, `${name} ${stamp}`, { ...mesh, uvs })}`;
  };
  /** How bright the middle is with each of some texts. */
  const brightness = async (shape: string, ...texts: readonly string[]): Promise<number[]> => {
    const [first, ...rest] = texts;
    await openOn(page, first!, shape);
    let shown = await settled(page);
    const found = [colorAt(shown, 0, 0)[1]!];
    for (const text of rest) {
      shown = await changeTo(page, text, shown);
      found.push(colorAt(shown, 0, 0)[1]!);
    }
    return found;
  };
  const plain = await laid('plain', (u, v) => [u, v]);
  const [right, left, up] = (await brightness(plain, tilted('0.6', '0'), tilted('-0.6', '0'), tilted('0', '0.6'))) as [
    number,
    number,
    number,
  ];
  // The key light stands to the right, above and before.
  expect(right).toBeGreaterThan(left + 25);
  expect(up).toBeGreaterThan(left + 25);
  // Seen with the picture mirrored, its right is at the left; with the picture turned by a quarter against the clock,
  // its right is up.
  const mirrored = await laid('mirrored', (u, v) => [1 - u, v]);
  const [asLeft, asUp] = (await brightness(mirrored, tilted('0.6', '0'), tilted('0', '0.6'))) as [number, number];
  expect([Math.abs(asLeft - left) <= 1, Math.abs(asUp - up) <= 1]).toEqual([true, true]);
  const turned = await laid('turned', (u, v) => [1 - v, u]);
  expect(Math.abs((await brightness(turned, tilted('0.6', '0')))[0]! - up)).toBeLessThanOrEqual(1);
});
