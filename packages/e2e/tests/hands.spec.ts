import type { Locator, Page } from '@playwright/test';
import {
  expect,
  expectAccessible,
  goToFrame,
  openMaterial,
  pictureOf,
  projectId,
  saved,
  score,
  stage,
  test,
  openTab,
} from './support.ts';

/** The text of the Score as it is saved. */
async function textOf(page: Page): Promise<string> {
  await expect(saved(page)).toHaveText(/^saved/);
  const id = /materials\/([^/?]+)/.exec(page.url())![1]!;
  return ((await (await page.request.get(`/api/materials/${id}`)).json()) as { text: string }).text;
}

/** Puts in what a search finds first. */
async function insert(page: Page, words: string, name: string, asLine = false): Promise<void> {
  await page.getByRole('button', { name: '+ Insert' }).click();
  await page.getByRole('combobox', { name: 'What should it do?' }).fill(words);
  await expect(page.getByRole('option').first()).toContainText(name);
  if (asLine) await page.getByRole('button', { name: 'As a new line' }).click();
  await page.getByRole('combobox', { name: 'What should it do?' }).press('Enter');
  await expect(page.getByRole('dialog')).toHaveCount(0);
}

async function drag(page: Page, from: Locator, dx: number, dy: number): Promise<void> {
  const box = (await from.boundingBox())!;
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x + dx / 2, y + dy / 2);
  await page.mouse.move(x + dx, y + dy);
  await page.mouse.up();
}

/** Side of the UV square on the flat Stage, in pixels. */
const squareOf = async (page: Page): Promise<number> => {
  const { width, height } = (await stage(page).boundingBox())!;
  return Math.floor(Math.min(width, height) * 0.94);
};

test('a material is made from empty by palette, cards and handles alone, and undone to the start', async ({ page }) => {
  await projectId(page);
  await page.goto('/');
  await page.getByRole('region', { name: 'Own' }).getByRole('button', { name: 'New material' }).click();
  await page.getByRole('textbox', { name: 'Title' }).fill('By hand');
  await page.getByRole('radio', { name: 'Blank' }).check({ force: true });
  await page.getByRole('button', { name: 'Create material' }).click();
  await expect(score(page)).toContainText('material "By hand"');
  const start = 'material "By hand"\nloop 4s at 30fps\nsurface unlit opaque one-sided\n';
  expect(await textOf(page)).toBe(start);

  await insert(page, 'scroll like a waterfall', 'pan');
  await expect(score(page)).toContainText('flow = uv |> pan(1 lap, heading: 0deg)');
  // The arrow is 0.12 of the square long for a lap: from one lap right to two laps up.
  const lap = (await squareOf(page)) * 0.12;
  await drag(page, page.getByRole('button', { name: /^Motion of pan/ }), -lap, -2 * lap);
  await expect(score(page)).toContainText('pan(2 laps, heading: 90deg)');

  await insert(page, 'clouds', 'fbm', true);
  await expect(page.getByRole('region', { name: 'Operation fbm' })).toBeVisible();
  await page
    .getByRole('slider', { name: 'octaves of fbm' })
    .or(page.getByRole('button', { name: 'Set octaves of fbm' }))
    .first()
    .click();
  await page.getByRole('button', { name: 'Make a dial of evolve of fbm' }).click();
  await expect(score(page)).toContainText('dial noise_evolve: laps = 1 in -6..6');
  await insert(page, 'fire colours palette', 'ramp');
  await insert(page, 'final picture', 'out color');
  await expect(score(page)).toContainText('out color = noise');

  const made = await textOf(page);
  const lines = made.replace(/\n +\|>/g, ' |>').split('\n');
  expect(lines.filter((line) => line !== '')).toEqual([
    'material "By hand"',
    'loop 4s at 30fps',
    'surface unlit opaque one-sided',
    expect.stringMatching(/^dial noise_evolve: laps = 1 in -6\.\.6 ".+"$/),
    'ramp glow = 0% #000000, 60% #c2703d, 100% #fff4d6',
    'flow = uv |> pan(2 laps, heading: 90deg)',
    'noise = flow |> fbm(evolve: noise_evolve, octaves: 4) |> ramp(glow)',
    'out color = noise',
  ]);
  await expect(page.getByText('Showing the last valid version')).toHaveCount(0);
  await expectAccessible(page);

  const undo = page.getByRole('button', { name: 'Undo', exact: true });
  for (let i = 0; i < 40 && (await undo.isEnabled()); i++) await undo.click();
  await expect(undo).toBeDisabled();
  expect(await textOf(page)).toBe(start);
  const redo = page.getByRole('button', { name: 'Redo', exact: true });
  for (let i = 0; i < 40 && (await redo.isEnabled()); i++) await redo.click();
  await expect(redo).toBeDisabled();
  expect(await textOf(page)).toBe(made);
});

test('a material is made by typing alone', async ({ page }) => {
  await openMaterial(page, '');
  const lines = [
    'loop 2s at 30fps',
    'dial fall: laps = 2 in -6..6',
    'flow = uv |> tile(2, 3) |> pan(fall, heading: 270deg)',
    'out color = flow |> fbm(cells: 4)',
  ];
  await score(page).click();
  for (const [i, line] of lines.entries()) {
    await page.keyboard.type(line);
    // What is offered is not wanted here.
    await page.keyboard.press('Escape');
    if (i < lines.length - 1) await page.keyboard.press('Enter');
  }
  await expect.poll(() => textOf(page)).toBe(lines.join('\n'));
  await expect(page.getByText('Showing the last valid version')).toHaveCount(0);
});

const VALUES = [
  'loop 4s at 30fps',
  'image vapour = "mist-a.png" repeat linear color',
  'flow = uv |> turn(30deg, pivot: (0.5, 0.5))',
  'slid = flow |> pan(2 laps, heading: 0deg)',
  'bars = slid |> stripes(4) |> rise(0.25, 0.75)',
  'beat = wave(1 lap, shape: sine)',
  'tint = #ff0000',
  'out color = tint.rgb * bars * beat',
  '',
].join('\n');
const number = (page: Page, text: string): Locator =>
  score(page)
    .locator('.cm-number', { hasText: new RegExp(`^${text}$`) })
    .first();

test('values are changed where they stand: dragged, by keys and wheel, on a dial, a pad, a picker, a menu', async ({
  page,
}) => {
  await openMaterial(page, VALUES);
  await drag(page, number(page, '2 laps'), 8, 0);
  await expect(score(page)).toContainText('pan(4 laps');
  // One drag is one undo.
  await page.keyboard.press('Control+z');
  await expect(score(page)).toContainText('pan(2 laps');
  await drag(page, number(page, '0\\.25'), 40, 0);
  await expect(score(page)).toContainText('rise(0.35, 0.75)');

  await number(page, '0\\.35').click();
  await page.keyboard.press('Control+ArrowUp');
  await expect(score(page)).toContainText('rise(0.36, 0.75)');
  await page.keyboard.press('Control+Shift+ArrowDown');
  await expect(score(page)).toContainText('rise(0.26, 0.75)');
  await number(page, '0\\.26').hover();
  await page.keyboard.down('Alt');
  await page.mouse.wheel(0, -100);
  await page.keyboard.up('Alt');
  await expect(score(page)).toContainText('rise(0.27, 0.75)');

  // What is open in place hides the rest from roles.
  const content = page.locator('.cm-content');
  await page.getByRole('button', { name: 'Set the angle 30deg' }).click();
  const popover = page.getByRole('dialog', { name: /^Value of/ });
  await popover.getByRole('slider').press('Shift+ArrowUp');
  await expect(content).toContainText('turn(45deg');
  await expectAccessible(page);
  await page.keyboard.press('Escape');

  await page.getByRole('button', { name: 'Set the point (0.5, 0.5)' }).click();
  await popover.getByRole('group').press('Shift+ArrowRight');
  await expect(content).toContainText('pivot: (0.6, 0.5)');
  await page.keyboard.press('Escape');

  await page.getByRole('button', { name: 'Set the colour #ff0000' }).click();
  await popover.getByRole('slider', { name: 'Hue' }).press('ArrowRight');
  await expect(content).not.toContainText('#ff0000');
  await page.keyboard.press('Escape');

  await score(page).locator('.cm-choice', { hasText: 'sine' }).click();
  await page.getByRole('menuitem', { name: 'triangle' }).click();
  await expect(content).toContainText('shape: triangle');
  await score(page).locator('.cm-choice', { hasText: 'linear' }).click();
  await page.getByRole('menuitem', { name: 'nearest' }).click();
  await expect(content).toContainText('repeat nearest color');
});

test('the card of a step switches, moves and removes stages, explains them, and makes dials and constants', async ({
  page,
}) => {
  await openMaterial(page, VALUES);
  await page.getByRole('button', { name: /^Show flow alone/ }).click();
  const card = page.getByRole('tabpanel', { name: 'Step', exact: true });
  await card.getByRole('button', { name: 'Switch off the stage turn' }).click();
  await expect(score(page)).toContainText('|> off turn(30deg');
  await card.getByRole('button', { name: 'Switch on the stage turn' }).click();
  await insert(page, 'scroll like a waterfall', 'pan');
  await card.getByRole('button', { name: 'Move turn down' }).click();
  await expect(score(page)).toContainText(
    /flow = uv *\|> pan\(1 lap, heading: 0deg\) *\|> turn\(30deg, pivot: \(0.5, 0.5\)\)/,
  );
  await card.getByRole('button', { name: 'Make a dial of rate of pan' }).click();
  await expect(score(page)).toContainText('dial flow_rate: laps = 1 in -6..6');
  await card.getByRole('button', { name: 'Make rate of pan a constant' }).click();
  await expect(score(page)).not.toContainText('flow_rate');
  await expect(score(page)).toContainText('pan(1 lap, heading: 0deg)');

  await card.getByRole('button', { name: 'Help on turn' }).click();
  const example = card.getByRole('group', { name: 'Example of turn' });
  await expect(example).toContainText('A fixed rotation');
  const before = await textOf(page);
  await expect(async () => {
    const red = (await pictureOf(example.getByRole('img'))).data.filter((_, i) => i % 4 === 0);
    expect([Math.min(...red), Math.max(...red)]).toEqual([0, 255]);
  }).toPass();
  await example.getByRole('slider').first().press('ArrowRight');
  expect(await textOf(page)).toBe(before);
  // A button that is half scrolled away is too small a target for axe.
  await page.getByRole('tabpanel', { name: 'Step', exact: true }).evaluate((panel) => {
    panel.scrollTo(0, 0);
  });
  await expectAccessible(page);

  await card.getByRole('button', { name: 'Remove turn' }).click();
  await expect(score(page)).not.toContainText('turn(30deg');
  await card.getByRole('button', { name: 'Off from here' }).click();
  await expect(score(page)).toContainText('off tint = ');
  await page.keyboard.press('Control+z');
  await expect(score(page)).not.toContainText('off tint = ');
});

test('the palette finds by what a thing does, and goes by keys', async ({ page }) => {
  await openMaterial(page, VALUES);
  await score(page).click();
  await page.keyboard.press('Control+k');
  const field = page.getByRole('combobox', { name: 'What should it do?' });
  await field.fill('make it glow at the edge');
  await expect(page.getByRole('option').first()).toContainText('fresnel');
  await expect(page.getByRole('option', { selected: true })).toContainText('fresnel');
  // The example plays: something else than black.
  await expect(async () => {
    const { data } = await pictureOf(page.getByRole('option').first().locator('canvas'));
    expect(Math.max(...data.filter((_, i) => i % 4 === 0))).toBeGreaterThan(60);
  }).toPass();
  await page.keyboard.press('ArrowDown');
  await expect(page.getByRole('option').nth(1)).toHaveAttribute('aria-selected', 'true');
  await expectAccessible(page);
  await field.fill('qqqq');
  await expect(page.getByText('No results.')).toBeVisible();
  // Tab leads on, and Shift with Enter puts in the other way: as a line of its own.
  await page.keyboard.press('Tab');
  await expect(field).not.toBeFocused();
  await field.fill('turn the picture');
  await expect(page.getByRole('option').first()).toContainText('turn');
  await field.press('Shift+Enter');
  await expect(page.getByRole('dialog')).toHaveCount(0);
  expect(await textOf(page)).toMatch(/^\w+ = uv \|> turn/m);
});

test('keys act wherever the focus is, and single ones can be switched off', async ({ page }) => {
  await openMaterial(page, VALUES);
  const playing = page.getByRole('button', { name: 'Pause', exact: true });
  await stage(page).focus();
  await expect(playing).toHaveCount(0);
  await page.keyboard.press(' ');
  await expect(playing).toBeVisible();
  await page.keyboard.press('?');
  await expectAccessible(page);
  await page.getByRole('checkbox', { name: /^Use single-key shortcuts/ }).uncheck();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await stage(page).focus();
  await page.keyboard.press(' ');
  await page.keyboard.press('Control+k');
  await expect(page.getByRole('combobox', { name: 'What should it do?' })).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(playing).toBeVisible();
});

test('the probe reads every step at a pixel, pinned, with its history', async ({ page }) => {
  await openMaterial(page, 'loop 4s at 30fps\nplace = uv\nbeat = saw(1 lap)\nout color = (place.x, place.y, beat)\n');
  await goToFrame(page, 30);
  await openTab(page, 'Probe');
  const { width, height } = (await stage(page).boundingBox())!;
  const size = Math.floor(Math.min(width, height) * 0.94);
  const at = { x: Math.floor((width - size) / 2) + size * 0.25, y: Math.floor((height - size) / 2) + size * 0.75 };
  await stage(page).click({ position: at });
  const probe = page.getByRole('tabpanel', { name: 'Probe' });
  await expect(probe).toContainText('Pinned at');
  await page.mouse.move(5, 5);
  // A quarter across, three quarters down, a quarter through the loop.
  const row = probe.getByRole('row').filter({ hasText: 'out color' });
  const reads = (values: readonly number[]): Promise<void> =>
    expect(async () => {
      const read = [...(await row.innerText()).matchAll(/\d\.\d+/g)].map(Number);
      expect(values.every((v, i) => Math.abs(read[i]! - v) < 0.01)).toBe(true);
    }).toPass();
  await reads([0.25, 0.75, 0.25]);
  await expect(score(page).locator('.cm-values')).toHaveCount(3);
  await probe.getByRole('button', { name: /^Plot beat/ }).click();
  await expect(probe.getByRole('img', { name: 'beat over the loop at this pixel' })).toBeVisible();
  await expectAccessible(page);
  await probe.getByRole('button', { name: 'Unpin' }).click();
  // The same by keys.
  await stage(page).focus();
  await page.keyboard.press('Enter');
  await reads([0.5, 0.5, 0.25]);
  for (const key of ['Shift+ArrowRight', 'Shift+ArrowRight', 'ArrowUp']) await page.keyboard.press(key);
  await reads([0.7, 0.49, 0.25]);
  await page.keyboard.press('Enter');
  await expect(probe).not.toContainText('Pinned at');
  await openTab(page, 'Dials');
  await expect(score(page).locator('.cm-values')).toHaveCount(0);
});

test('variants stand beside the base, are written, reset, compared and randomised', async ({ page }) => {
  await openMaterial(
    page,
    'loop 4s at 30fps\ndial level = 0.2 in 0..1\nout color = level\nvariant "Bright" { level = 0.9 }\n',
  );
  await goToFrame(page, 0);
  const dials = page.getByRole('region', { name: 'Panel' });
  const grey = async (share: number): Promise<number> => {
    const { width, height, data } = await pictureOf(stage(page));
    return data[(Math.floor(height / 2) * width + Math.floor(width * share)) * 4]!;
  };
  const dark = await grey(0.45);
  await dials.getByRole('button', { name: 'More for Bright' }).click();
  await page.getByRole('menuitem', { name: 'Compare with Base' }).click();
  await expect.poll(() => grey(0.55)).toBeGreaterThan(dark + 80);
  expect(await grey(0.45)).toBe(dark);
  await page.getByRole('slider', { name: 'Divider between the two' }).press('ArrowRight');
  await expectAccessible(page);
  await dials.getByRole('button', { name: 'More for level' }).click();
  await page.getByRole('menuitem', { name: 'Compare with one value on both sides' }).click();
  await expect.poll(() => grey(0.56)).toBe(dark);
  await page.getByRole('button', { name: 'Stop comparing' }).click();

  await dials.getByRole('button', { name: 'Bright', exact: true }).click();
  await expect.poll(() => grey(0.45)).toBeGreaterThan(dark + 80);
  await expect(page).toHaveURL(/variant=Bright/);
  // The one that is shown is compared with the base, never with itself.
  await dials.getByRole('button', { name: 'More for Bright' }).click();
  await page.getByRole('menuitem', { name: 'Compare with Base' }).click();
  await expect.poll(() => grey(0.55)).toBe(dark);
  await dials.getByRole('button', { name: 'Base', exact: true }).click();
  await expect.poll(() => grey(0.45)).toBe(dark);
  await expect.poll(() => grey(0.55)).toBeGreaterThan(dark + 80);
  await page.getByRole('button', { name: 'Stop comparing' }).click();
  await dials.getByRole('button', { name: 'Bright', exact: true }).click();
  await expect(page).toHaveURL(/variant=Bright/);
  await page.reload();
  await expect.poll(() => grey(0.45)).toBeGreaterThan(dark + 80);
  await dials.getByRole('textbox', { name: 'level of Bright' }).fill('2');
  await expect(page.getByText("'level' goes from 0 to 1.")).toBeVisible();
  await dials.getByRole('textbox', { name: 'level of Bright' }).fill('0.5');
  await page.keyboard.press('Enter');
  await expect(score(page)).toContainText('variant "Bright" { level = 0.5 }');
  await dials.getByRole('button', { name: 'Reset level of Bright to the base' }).click();
  await expect(score(page)).toContainText('variant "Bright" { }');
  await dials.getByRole('button', { name: 'Base', exact: true }).click();
  await dials.getByRole('button', { name: 'Save as variant' }).click();
  await expect(score(page)).toContainText('variant "Variant 1" { level = 0.2 }');

  const randomise = async (): Promise<string> => {
    await dials.getByRole('button', { name: 'More for the dials' }).click();
    const more = page.getByRole('dialog', { name: 'More for the dials' });
    await more.getByRole('spinbutton', { name: 'Seed' }).fill('7');
    await more.getByRole('button', { name: 'Randomise Variant 1' }).click();
    await page.keyboard.press('Escape');
    await expect(more).toHaveCount(0);
    return textOf(page);
  };
  const first = await randomise();
  await page.getByRole('button', { name: 'Undo' }).click();
  expect(await randomise()).toBe(first);

  await dials.getByRole('textbox', { name: 'Greatest level' }).fill('4');
  await page.keyboard.press('Enter');
  await expect(score(page)).toContainText('in 0..4');
  await dials.getByRole('button', { name: 'More for level' }).click();
  await page.getByRole('menuitem', { name: 'Rename' }).click();
  await page.getByRole('textbox', { name: 'Name' }).fill('lightness');
  await page.getByRole('button', { name: 'Write' }).click();
  await expect(score(page)).toContainText('out color = lightness');
  await dials.getByRole('button', { name: 'More for lightness' }).click();
  await page.getByRole('menuitem', { name: 'Delete' }).click();
  await expect(score(page)).toContainText('out color = 0.2');
});

test('handles on the Stage move a pivot, turn, tile and scale, each drag one undo', async ({ page }) => {
  await openMaterial(
    page,
    'flow = uv |> tile(2, 2) |> turn(0deg)\nbig = uv |> scale(1)\nout color = flow |> checker(2)\n',
  );
  await page.getByRole('button', { name: /^Show flow alone/ }).click();
  await page.keyboard.press('Escape');
  const size = await squareOf(page);
  // The pivot (0.5, 0.5) of what flows in lies a quarter across; a quarter further it is (1, 0.5).
  await drag(page, page.getByRole('button', { name: /^Pivot of turn/ }), size * 0.25, 0);
  await expect(score(page)).toContainText('turn(0deg, pivot: (1, 0.5))');
  await page.keyboard.press('Control+z');
  await expect(score(page)).toContainText('turn(0deg)');
  await page.getByRole('button', { name: /^Angle of turn/ }).focus();
  await page.keyboard.press('ArrowRight');
  await expect(score(page)).toContainText('turn(1deg)');
  await drag(page, page.getByRole('button', { name: /^One tile/ }), -size * 0.25, 0);
  await expect(score(page)).toContainText('tile(4, 2)');
  await page.getByRole('button', { name: /^Show big alone/ }).click();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: /^Size of scale/ }).focus();
  await page.keyboard.press('ArrowRight');
  await expect(score(page)).toContainText('scale(1.1)');
});
