import { readFileSync } from 'node:fs';
import { PNG } from 'pngjs';
import type { Locator, Page } from '@playwright/test';
import {
  dropOn,
  expect,
  expectAccessible,
  makeMaterial,
  openMaterial,
  projectId,
  saved,
  score,
  stage,
  takeOver,
  test,
} from './support.ts';

/** A PNG whose texels are what `texel` gives for u and v, 0..1. */
function png(texel: (u: number, v: number) => readonly [number, number, number], size = 32): Buffer {
  const image = new PNG({ width: size, height: size });
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++)
      image.data.set(
        [...texel((x + 0.5) / size, (y + 0.5) / size).map((c) => Math.round(c * 255)), 255],
        (y * size + x) * 4,
      );
  return PNG.sync.write(image);
}
const wave = (x: number): number => 0.5 + 0.4 * Math.sin(2 * Math.PI * x);
/** Its left and right edges do not meet. */
const LEAF = { name: 'leaf.png', bytes: png((u, v) => [u, wave(v), 0.2]) };
const FOLDS = {
  name: 'folds.png',
  bytes: png((u, v) => {
    const [x, y] = [0.4 * Math.sin(6.283 * u), 0.4 * Math.sin(6.283 * v)];
    return [x / 2 + 0.5, y / 2 + 0.5, Math.sqrt(1 - x * x - y * y) / 2 + 0.5];
  }),
};
const GREY = { name: 'grey.png', bytes: png((u) => [wave(u), wave(u), wave(u)]) };
const SHEET = {
  name: 'sheet.obj',
  bytes: Buffer.from(
    'v -1 -1 0\nv 1 -1 0\nv 1 1 0\nv -1 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nvn 0 0 1\nf 1/1/1 2/2/1 3/3/1 4/4/1\n',
  ),
};
const FILES = [LEAF, FOLDS, SHEET];

const BLANK = 'material "Blank"\nloop 4s at 30fps\nsurface unlit opaque one-sided\n';
const tab = (page: Page, name: RegExp): Locator => page.getByRole('tab', { name });
/** The whole text, whatever of it is folded. */
const textOf = async (page: Page): Promise<string> => {
  await expect(saved(page)).toHaveText(/^saved/);
  const id = /materials\/([^/?]+)/.exec(page.url())![1]!;
  return ((await (await page.request.get(`/api/materials/${id}`)).json()) as { text: string }).text;
};
const put = (files: typeof FILES) => files.map(({ name, bytes }) => ({ name, mimeType: '', buffer: bytes }));

/** What the lit, panning, closing sheet must come to, with its speed exposed and its seam fixed. */
async function expectSheet(page: Page): Promise<void> {
  await expect(page.getByRole('button', { name: 'Loops at every setting' })).toBeVisible();
  await expect(page).toHaveURL(/view=mesh-/);
  await expect(page.getByRole('tab', { name: 'Checks: 0 to look at' })).toBeVisible();
  const text = await textOf(page);
  for (const line of [
    /^surface lit /m,
    /^dial \w+: laps = 1 /m,
    /^image leaf = "leaf-tiling.png" repeat linear color$/m,
    /^image folds = "folds.png" repeat linear normal$/m,
    /^flow = uv \|> tile\(1\) \|> pan\(\w+, heading: /m,
    /^out color = film$/m,
    /^out normal = tilt.xyz$/m,
  ])
    expect(text).toMatch(line);
}

test.describe('from an empty project to a lit, panning, closing sheet in twelve acts', () => {
  let acts = 0;
  /** One act: a drop, a pick, a click or a key command. */
  const act = async (what: Promise<unknown>): Promise<void> => {
    await what;
    acts++;
  };
  test.beforeEach(async ({ page }) => {
    acts = 0;
    await projectId(page);
    await page.goto('/');
  });
  test.afterEach(() => {
    expect(acts).toBeLessThanOrEqual(12);
    expect(acts).toBeGreaterThan(5);
  });

  test('by mouse alone', async ({ page }) => {
    const own = page.getByRole('region', { name: 'Own' });
    await act(own.getByRole('button', { name: 'New material' }).click());
    await act(page.getByText('Blank', { exact: true }).click());
    await act(page.getByRole('button', { name: 'Create material' }).click());
    await expect(page.getByText('Drop a texture here')).toBeVisible();
    await act(dropOn(stage(page), FILES));
    await expect(score(page)).toContainText('out normal = tilt.xyz');
    await expect(page).toHaveURL(/view=mesh-/);
    await act(page.getByRole('button', { name: '+ Insert' }).click());
    await act(page.getByRole('option', { name: /^pan/ }).click());
    await act(page.getByRole('button', { name: 'Make a dial of rate of pan' }).click());
    await act(tab(page, /^Checks/).click());
    await act(page.getByRole('button', { name: 'Make tileable' }).click());
    await act(page.getByRole('group', { name: 'Blend' }).getByRole('button', { name: 'Save as a new source' }).click());
    await expectSheet(page);
    // The seam's fix is one undo.
    await page.getByRole('button', { name: 'Undo' }).click();
    expect(await textOf(page)).toContain('image leaf = "leaf.png"');
  });

  test('by keyboard alone', async ({ page }) => {
    const { keyboard } = page;
    const tabTo = async (to: Locator): Promise<void> => {
      await expect(to).toBeVisible();
      for (let i = 0; i < 150; i++) {
        if (await to.evaluate((element) => element === document.activeElement)) return;
        await keyboard.press('Tab');
      }
      throw new Error(`${String(to)} cannot be reached by Tab.`);
    };
    const enter = async (on: Locator): Promise<void> => {
      await tabTo(on);
      await act(keyboard.press('Enter'));
    };
    await enter(page.getByRole('region', { name: 'Own' }).getByRole('button', { name: 'New material' }));
    await expect(page.getByRole('textbox', { name: 'Search the starts' })).toBeFocused();
    await expect(page.getByRole('radio', { name: 'Steady rise' })).toBeAttached();
    // Listened for early: a key is faster than the browser's word that someone listens.
    const chooser = page.waitForEvent('filechooser');
    await act(keyboard.type('blank'));
    await act(keyboard.press('Enter'));
    await expect(page.getByText('Drop a texture here')).toBeVisible();
    await expect(score(page)).toBeVisible();
    await act(keyboard.press('Control+i'));
    await act((await chooser).setFiles(put(FILES)));
    await expect(score(page)).toContainText('out normal = tilt.xyz');
    await expect(page).toHaveURL(/view=mesh-/);
    await act(keyboard.press('Control+k'));
    await expect(page.getByRole('combobox', { name: 'What should it do?' })).toBeFocused();
    await act(keyboard.type('pan'));
    await expect(page.getByRole('option', { selected: true })).toHaveText(/^pan/);
    await act(keyboard.press('Enter'));
    await enter(page.getByRole('button', { name: 'Make a dial of rate of pan' }));
    await act(keyboard.press('Alt+4'));
    await enter(page.getByRole('button', { name: 'Make tileable' }));
    await enter(page.getByRole('group', { name: 'Blend' }).getByRole('button', { name: 'Save as a new source' }));
    await expectSheet(page);
  });
});

test('a texture is dropped on a step, pasted, dragged from the tab, and picked where an image is asked for', async ({
  page,
}) => {
  await takeOver(page, ['moss.png']);
  await openMaterial(page, BLANK);
  await dropOn(score(page), [LEAF]);
  await expect(score(page)).toContainText('film = flow |> sample(leaf)');
  // Undo takes all of it back at once.
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(score(page)).not.toContainText('sample');
  await page.getByRole('button', { name: 'Redo' }).click();

  await page.evaluate((base64) => {
    const clipboardData = new DataTransfer();
    clipboardData.items.add(new File([Uint8Array.from(atob(base64), (c) => c.charCodeAt(0))], 'pasted.png'));
    document
      .querySelector('.cm-content')!
      .dispatchEvent(new ClipboardEvent('paste', { clipboardData, bubbles: true, cancelable: true }));
  }, GREY.bytes.toString('base64'));
  await expect(score(page)).toContainText('mask = flow |> sample(pasted)');
  expect(await textOf(page)).toContain('image pasted = "pasted.png" repeat linear data');

  // Dragged onto a step that samples it takes the place of the image there.
  await tab(page, /^Sources/).click();
  const textures = page.getByRole('list', { name: 'Textures' });
  await expect(textures.getByRole('listitem')).toHaveCount(3);
  await textures
    .getByRole('listitem')
    .filter({ hasText: 'moss.png' })
    .dragTo(page.locator('.cm-line').filter({ hasText: 'mask = flow' }));
  await expect(score(page)).toContainText('mask = flow |> sample(moss)');
  expect(await textOf(page)).not.toContain('pasted');
  await expect(textures.getByRole('listitem').filter({ hasText: 'moss.png' })).toContainText('used as moss');
  await expectAccessible(page);

  // By a click it is sampled in a new step.
  await textures.getByRole('button', { name: 'Use pasted.png' }).click();
  await expect(score(page)).toContainText('mask2 = flow |> sample(pasted)');
  await tab(page, /^Step/).click();
  await page.getByRole('combobox', { name: 'image of sample' }).click();
  await expectAccessible(page);
  await page.getByRole('option', { name: 'leaf' }).click();
  await expect(score(page)).toContainText('mask2 = flow |> sample(leaf)');

  // In the string of an image line the sources of the project are offered.
  await score(page).click();
  await page.keyboard.press('Control+Home');
  await page.keyboard.press('Control+.');
  await page.keyboard.press('Control+Home');
  await page.keyboard.press('End');
  await page.keyboard.press('Enter');
  await page.keyboard.type('image bark = "mo');
  await expect(page.getByRole('option', { name: /moss\.png/ })).toBeVisible();
  await page.waitForTimeout(200);
  await page.keyboard.press('Enter');
  await expect(score(page)).toContainText('image bark = "moss.png" repeat linear color');
});

test('files that are no textures are refused where they were dropped, and nothing else is lost', async ({ page }) => {
  await openMaterial(page, BLANK);
  await dropOn(stage(page), [{ name: 'notes.txt', bytes: Buffer.from('not a picture') }, LEAF]);
  await expect(page.getByRole('region', { name: 'Imported files' })).toContainText('1 of 2 imported, 1 refused');
  await expect(score(page)).toContainText('sample(leaf)');
  // The same again asks what to do about the name.
  await dropOn(stage(page), [LEAF]);
  await page.getByRole('button', { name: 'Keep both' }).click();
  await expect(score(page)).toContainText('sample(leaf_2)');
});

test('a start is found by what it does, and brings its textures into any project', async ({ page }) => {
  await projectId(page);
  await page.goto('/');
  await page.getByRole('region', { name: 'Own' }).getByRole('button', { name: 'New material' }).click();
  const starts = page.getByRole('radiogroup', { name: 'Start from' });
  await expect(starts.getByRole('radio')).toHaveCount(21);
  await expectAccessible(page);
  await page.getByRole('textbox', { name: 'Search the starts' }).fill('zebra');
  await expect(page.getByText('No matching start')).toBeVisible();
  await page.getByRole('textbox', { name: 'Search the starts' }).fill('see through');
  await page.getByRole('radio', { name: 'Glasshouse pane' }).check({ force: true });
  await page.getByRole('button', { name: 'Create material' }).click();
  await expect(page.getByRole('heading', { name: 'Glasshouse pane' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Loops at every setting' })).toBeVisible();
  await tab(page, /^Sources 2/).click();
  await expect(page.getByRole('list', { name: 'Textures' })).toContainText('mist-a.png');
  await expect(page.getByRole('list', { name: 'Textures' })).toContainText('mist-normal.png');
});

test('settings stand folded, unfold by click, key and cursor, and stay as they were left', async ({ page }) => {
  await openMaterial(page, readFileSync('demo/starts/glasshouse-pane.wake', 'utf8'), '', true);
  const folded = page.getByRole('button', { name: /^Unfold the settings/ });
  await expect(folded).toBeVisible();
  await expect(score(page)).not.toContainText('image vapour');
  await expect(page.getByRole('button', { name: /^Show vapour/ })).toBeVisible();
  // A dial that is turned leaves them folded.
  await page.getByRole('slider').first().focus();
  await page.keyboard.press('ArrowRight');
  await expect(folded).toBeVisible();
  await folded.click();
  await expect(score(page)).toContainText('image vapour');
  await page.reload();
  await expect(score(page)).toContainText('image vapour');
  await page.getByRole('button', { name: /^Fold the settings/ }).click();
  await expect(folded).toBeVisible();
  await score(page).focus();
  await page.keyboard.press('Control+.');
  await expect(score(page)).toContainText('image vapour');
  await page.keyboard.press('Control+.');
  await expect(folded).toBeVisible();
  // The cursor goes into them by an arrow.
  await page.locator('.cm-step-line').first().click();
  for (let i = 0; i < 4; i++) await page.keyboard.press('ArrowUp');
  await expect(score(page)).toContainText('image vapour');
});

test('marks show a first visit around, once', async ({ page }) => {
  await page.addInitScript(() => {
    if (sessionStorage.getItem('again') === null) localStorage.removeItem('estela.visited');
    sessionStorage.setItem('again', 'yes');
  });
  const materials = (await (
    await page.request.get(
      `/api/projects/${((await (await page.request.get('/api/projects')).json()) as { id: string; name: string }[]).find((p) => p.name === 'Glasshouse Nine')!.id}/materials`,
    )
  ).json()) as { id: string; title: string }[];
  await page.goto(`/materials/${materials.find((m) => m.title === 'Mist curtain')!.id}`);
  const marks = page.getByRole('complementary', { name: 'First visit' });
  await expect(marks.getByRole('button', { name: /^[1-5]: / })).toHaveCount(5);
  for (const words of ['The Score', 'A picture for every step', 'Dials', 'Does it loop?'])
    await expect(page.getByRole('heading', { name: words }))
      .toBeVisible()
      .then(() => page.getByRole('button', { name: 'Next' }).click());
  await expect(page.getByRole('heading', { name: 'Export' })).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Done' }).click();
  await expect(marks).toHaveCount(0);
  await page.reload();
  await expect(score(page)).toBeVisible();
  await page.waitForTimeout(1000);
  await expect(marks).toHaveCount(0);
  // Nor elsewhere.
  await page.goto(`/materials/${await makeMaterial(page, BLANK)}`);
  await expect(score(page)).toBeVisible();
  await expect(marks).toHaveCount(0);
});

test('all that is selected is replaced by what is typed, folded settings too', async ({ page }) => {
  const text = 'material "Folded"\nloop 2s at 30fps\n\na = uv.x\nb = a * 0.5\nout color = b\n';
  await openMaterial(page, text, '', true);
  await expect(page.getByRole('button', { name: /^Unfold the settings/ })).toBeVisible();
  for (const typed of ['x', 'out color = 0.5\n']) {
    await score(page).click();
    await page.keyboard.press('Control+End');
    await page.keyboard.press('Control+a');
    if (typed.length === 1) await page.keyboard.press(typed);
    else await page.keyboard.insertText(typed);
    await expect.poll(() => textOf(page)).toBe(typed);
    await page.keyboard.press('Control+z');
    await expect.poll(() => textOf(page)).toBe(text);
  }
});

test('a dial without effect says which switch brings it back', async ({ page }) => {
  await openMaterial(
    page,
    'material "Switched"\nloop 4s at 30fps\n\ndial glow = 0.5 in 0..1 "How bright"\nswitch lamp = off "Lights it"\n\nbase = 0.2 + glow * lamp\nout color = base\n',
  );
  await expect(page.getByText('glow has no effect while lamp is off.')).toBeVisible();
  await page.getByRole('button', { name: 'Turn lamp on' }).click();
  await expect(page.getByText('glow has no effect')).toHaveCount(0);
  expect(await textOf(page)).toContain('switch lamp = on');
});
