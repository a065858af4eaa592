import {
  brightMiddle,
  difference,
  expect,
  expectAccessible,
  goToFrame,
  openDemo,
  openMaterial,
  pictureOf,
  saved,
  score,
  stage,
  test,
  writeAll,
} from './support.ts';

const DOT = `material "Dot"
loop 4s at 30fps
dial speed: laps = 1 in -4..4
dial lean: angle = 0deg in -90deg..90deg
dial ink: color = #ffffff
flow = uv |> pan(speed, heading: 0deg) |> turn(lean)
out color = ink.rgb * (flow |> disc(0.08))
`;

test('an edited heading turns the motion, and is there after a reload', async ({ page }) => {
  await openMaterial(page, DOT);
  const motion = async (): Promise<{ x: number; y: number }> => {
    await goToFrame(page, 0);
    const start = brightMiddle(await pictureOf(stage(page)));
    await goToFrame(page, 10);
    const end = brightMiddle(await pictureOf(stage(page)));
    expect(start.count).toBeGreaterThan(100);
    return { x: end.x - start.x, y: end.y - start.y };
  };
  const right = await motion();
  expect(right.x).toBeGreaterThan(20);
  expect(Math.abs(right.y)).toBeLessThan(2);

  await score(page).getByText('0deg', { exact: true }).last().dblclick();
  await page.keyboard.insertText('90deg');
  await expect(saved(page)).toHaveText('saved, revision 2');
  await expect(async () => {
    const up = await motion();
    expect(up.y).toBeLessThan(-20);
    expect(Math.abs(up.x)).toBeLessThan(2);
  }).toPass();

  await page.reload();
  await expect(score(page)).toContainText('heading: 90deg');
  expect((await motion()).y).toBeLessThan(-20);
});

test('an error gives one message at its line, and the Stage runs on', async ({ page }) => {
  await openMaterial(page, DOT);
  await writeAll(
    page,
    DOT.replace(/flow = .*/, 'flow = uv |> pan(speed: 0.3)').replace(/out color = .*/, 'out color = ink.rgb'),
  );
  const findings = page.getByRole('region', { name: 'Found in the text' }).getByRole('listitem');
  await expect(findings).toHaveCount(1);
  await expect(findings).toContainText('error, line 6');
  await expect(findings).toContainText("pan has no argument 'speed': it takes rate, heading, right and up.");
  await expect(page.getByText('Showing the last valid version')).toBeVisible();
  // The dot of the last good text still moves.
  await goToFrame(page, 0);
  const { x } = brightMiddle(await pictureOf(stage(page)));
  await goToFrame(page, 10);
  expect(brightMiddle(await pictureOf(stage(page))).x - x).toBeGreaterThan(12);
});

test('a fix is one click, and undo takes it back', async ({ page }) => {
  await openMaterial(page, DOT.replace('speed, heading', '0.5, heading'));
  await page.getByRole('button', { name: 'Write 0.5 laps' }).click();
  await expect(score(page)).toContainText('pan(0.5 laps, heading: 0deg)');
  await expect(page.getByRole('region', { name: 'Found in the text' })).toHaveCount(0);
  await score(page).click();
  await page.keyboard.press('Control+z');
  await expect(score(page)).toContainText('pan(0.5, heading: 0deg)');
});

test('an undo more than there are edits leaves the text, wherever the focus is', async ({ page }) => {
  await openMaterial(page, DOT);
  await score(page).locator('.cm-line', { hasText: 'pan(' }).getByText('speed', { exact: true }).dblclick();
  await page.keyboard.type('0.5');
  await page.getByRole('button', { name: 'Write 0.5 laps' }).click();
  for (const written of ['pan(0.5,', 'pan(speed,']) {
    await page.keyboard.press('Control+z');
    await expect(score(page)).toContainText(written);
  }
  await page.keyboard.press('Control+z');
  await expect(score(page)).toContainText('pan(speed,');
  await expect(page.getByRole('button', { name: 'Undo' })).toBeDisabled();
});

test('a dial drag changes the picture by uniforms alone and saves once it ends', async ({ page }) => {
  await page.addInitScript(() => {
    const counts = { compiles: 0 };
    Object.assign(window, { counts });
    // oxlint-disable-next-line typescript/unbound-method -- called with its own this below
    const compile = WebGL2RenderingContext.prototype.compileShader;
    WebGL2RenderingContext.prototype.compileShader = function (shader) {
      counts.compiles++;
      compile.call(this, shader);
    };
  });
  await openMaterial(page, DOT);
  await goToFrame(page, 10);
  const compiles = (): Promise<number> =>
    page.evaluate(() => (window as unknown as { counts: { compiles: number } }).counts.compiles);
  const compiled = await compiles();
  expect(compiled).toBeGreaterThan(0);
  const before = brightMiddle(await pictureOf(stage(page)));
  const calls: string[] = [];
  page.on('request', (r) => {
    if (r.url().includes('/api/')) calls.push(r.method());
  });

  const box = (await page.getByRole('slider', { name: 'speed' }).locator('..').locator('..').boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.625, box.y + box.height / 2);
  await page.mouse.down();
  for (const place of [0.5, 0.4, 0.3, 0.25]) {
    await page.mouse.move(box.x + box.width * place, box.y + box.height / 2, { steps: 4 });
    await page.waitForTimeout(300);
  }
  await page.waitForTimeout(1200);
  expect(calls).toEqual([]);
  await expect(page.getByRole('textbox', { name: 'speed value' })).toHaveValue('-2');
  expect(brightMiddle(await pictureOf(stage(page))).x).toBeLessThan(before.x - 60);
  await page.mouse.up();
  await expect(saved(page)).toHaveText('saved, revision 2');
  expect(calls).toEqual(['PUT']);
  expect(await compiles()).toBe(compiled);

  await page.keyboard.press('Control+z');
  await expect(page.getByRole('textbox', { name: 'speed value' })).toHaveValue('1');
});

test('dials take typed values, and say which they refuse', async ({ page }) => {
  await openMaterial(page, DOT);
  const field = page.getByRole('textbox', { name: 'lean value' });
  await field.fill('45');
  await field.press('Enter');
  await expect(score(page)).toContainText('dial lean: angle = 45deg in');
  await field.fill('200deg');
  await field.press('Enter');
  await expect(page.getByRole('tooltip')).toContainText("'lean' goes from -90deg to 90deg.");
  await field.press('Escape');
  await expect(field).toHaveValue('45deg');
  await page.getByRole('slider', { name: 'lean' }).press('ArrowUp');
  await expect(field).toHaveValue('46deg');
  await page.getByRole('textbox', { name: 'ink value' }).fill('#ff0000');
  await page.getByRole('textbox', { name: 'ink value' }).press('Enter');
  await expect(score(page)).toContainText('dial ink: color = #ff0000');
});

test('the transport plays, pauses, steps and goes round', async ({ page }) => {
  await openMaterial(page, DOT);
  await goToFrame(page, 119);
  const time = page.getByRole('group', { name: 'Time in the loop' });
  await page.getByRole('button', { name: 'One frame on' }).click();
  await expect(time).toContainText('frame   0/120');
  await stage(page).focus();
  await page.keyboard.press(',');
  await expect(time).toContainText('frame 119/120');
  await page.keyboard.press('Home');
  await expect(time).toContainText('0:00.0 / 0:04.0');
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Pause', exact: true })).toBeVisible();
  await expect(time).not.toContainText('frame   0/120');
});

test('each view shows the material, and its address reopens it', async ({ page }) => {
  await openDemo(page, 'orrery-dial');
  await goToFrame(page, 0);
  const flat = await pictureOf(stage(page));
  const views: Record<string, typeof flat> = { Flat: flat };
  for (const view of ['Tiling', 'Plane', 'Sphere']) {
    if (view === 'Tiling') await page.getByRole('button', { name: view, exact: true }).click();
    else {
      await page.getByRole('combobox', { name: 'Mesh' }).click();
      await page.getByRole('option', { name: new RegExp(`^${view}`) }).click();
    }
    await expect(async () => {
      const picture = await pictureOf(stage(page));
      for (const other of Object.values(views)) expect(difference(picture, other)).toBeGreaterThan(0.03);
      views[view] = picture;
    }).toPass();
  }
  const box = (await stage(page).boundingBox())!;
  await page.mouse.move(box.x + 200, box.y + 200);
  await page.mouse.down();
  await page.mouse.move(box.x + 320, box.y + 220, { steps: 5 });
  await page.mouse.up();
  await expect(async () =>
    expect(difference(views.Sphere!, await pictureOf(stage(page)))).toBeGreaterThan(0.02),
  ).toPass();
  expect(page.url()).toContain('view=sphere');
  await page.reload();
  await expect(page.getByRole('combobox', { name: 'Mesh' })).toHaveText('Sphere');
  await expectAccessible(page);
});

test('a lost graphics context comes back by itself', async ({ page }) => {
  await openMaterial(page, DOT);
  await goToFrame(page, 0);
  const before = await pictureOf(stage(page));
  await stage(page)
    .locator('canvas')
    .evaluate((canvas: HTMLCanvasElement) => {
      const extension = canvas.getContext('webgl2')!.getExtension('WEBGL_lose_context')!;
      extension.loseContext();
      setTimeout(() => extension.restoreContext(), 1500);
    });
  await expect(page.getByText('The graphics context was lost')).toBeVisible();
  await expect(page.getByText('The graphics context was lost')).toHaveCount(0);
  await expect(async () => expect(difference(before, await pictureOf(stage(page)))).toBeLessThan(0.001)).toPass();
});

test('polar coordinates draw no hairline where the angle starts over', async ({ page }) => {
  // Minified, so that a gradient taken across the jump would read the smallest mipmap: one flat colour.
  const text = (up: string): string =>
    `loop 4s at 30fps\nimage vapour = "mist-a.png" repeat linear color\nout color = (uv |> offset(0, ${up}) |> polar() |> tile(6, 6) |> sample(vapour)).rgb\n`;
  await openMaterial(page, text('0'));
  await goToFrame(page, 0);
  const square = async () => {
    const { width, height, data } = await pictureOf(stage(page));
    const size = Math.floor(Math.min(width, height) * 0.94);
    const [left, top] = [Math.floor((width - size) / 2), Math.floor((height - size) / 2)];
    return { size, at: (x: number, y: number): number => data[((top + y) * width + left + x) * 4]! };
  };
  const { size } = await square();
  const half = Math.floor(size / 2);
  // Cards take differences within pairs of rows: moved up by one row, the jump lies within a pair if it did not before.
  for (const up of [0, 1]) {
    await writeAll(page, text(String(up / size)));
    // Six equal sectors: half a turn later the picture is itself again, but the jump lies at the right only.
    await expect(async () => {
      const { at } = await square();
      let [worst, spread] = [0, 0];
      for (let y = half - 3; y < half + 3; y++) {
        for (let x = half + 20; x < size - 4; x++) {
          worst = Math.max(worst, Math.abs(at(x, y - up) - at(size - 1 - x, size - 1 - y - up)));
          spread = Math.max(spread, Math.abs(at(x, y - up) - at(x - 10, y - up)));
        }
      }
      expect(spread).toBeGreaterThan(30);
      expect(worst).toBeLessThanOrEqual(6);
    }).toPass();
  }
});
