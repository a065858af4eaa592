// npm run screenshots: pictures of the main views, made from the demo data, for docs/screenshots.
import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { build } from './build.mjs';
import { needCommands, needPackages, root } from './install.mjs';

needPackages();
needCommands({ chromium: 'chromium' }, 'Taking pictures');
await build(['player', 'web', 'server']);
const { chromium } = await import('@playwright/test');

const port = 4618;
const data = mkdtempSync(join(tmpdir(), 'estela-pictures-'));
const server = spawn(process.execPath, ['packages/server/dist/main.js', '--port', String(port), '--data', data], {
  cwd: root,
  stdio: ['ignore', 'pipe', 'inherit'],
});
await new Promise((ready) => server.stdout.on('data', (text) => String(text).includes('http://') && ready()));

const flags = JSON.parse(readFileSync(join(root, 'scripts/chromium-flags.json'), 'utf8'));
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: flags });
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
// No marks of a first visit.
await page.addInitScript(() => localStorage.setItem('estela.visited', '{"bench":true}'));
const address = `http://127.0.0.1:${port}`;
const take = (name) => page.screenshot({ path: join(root, 'docs/screenshots', `${name}.png`) });
const open = async (title, view, frame) => {
  await page.goto(address);
  const link = await page.getByRole('link', { name: `Open ${title}` }).getAttribute('href');
  await page.goto(`${address}${link}${view}`);
  await page.getByRole('textbox', { name: 'Text of the material' }).waitFor();
  await page.waitForTimeout(2500);
  // Textures may still be on their way.
  await page.waitForFunction(() => !document.querySelector('[aria-label="The material"][aria-busy=true]'));
  await page.getByRole('button', { name: 'Pause', exact: true }).click();
  await page.getByRole('slider', { name: 'Frame' }).fill(String(frame));
  await page.mouse.move(900, 300);
  await page.getByRole('img', { name: 'The material' }).focus();
  await page.waitForTimeout(1500);
};

try {
  await page.goto(address);
  // Pictures come one after the other, where their sources are there; until then a canvas is clear.
  await page.waitForFunction(
    () => {
      const drawn = (c) => c.getContext('2d').getImageData(c.width >> 1, c.height >> 1, 1, 1).data[3] > 0;
      const inSight = [...document.querySelectorAll('li canvas')].filter(
        (c) => c.getBoundingClientRect().top < innerHeight,
      );
      return inSight.length > 10 && inSight.every(drawn);
    },
    undefined,
    { timeout: 180_000, polling: 1000 },
  );
  await page.waitForTimeout(5000);
  await take('shelf');
  await page.getByRole('button', { name: 'New material' }).first().click();
  await page.getByRole('textbox', { name: 'Search the starts' }).waitFor();
  await page.waitForFunction(() => document.querySelectorAll('[role=radiogroup] canvas').length > 20);
  await page.waitForTimeout(15_000);
  await take('starts');
  await open('Mist curtain', '', 36);
  await take('bench');
  // The card of a step, with the handles of its motion on the Stage.
  await page.getByRole('button', { name: /^Show flow alone/ }).click();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Help on pan' }).click();
  await page.getByRole('group', { name: 'Example of pan' }).scrollIntoViewIfNeeded();
  await page.waitForTimeout(2500);
  await take('card');
  await page.getByRole('tab', { name: 'Dials' }).click();
  await page.keyboard.press('Control+k');
  await page.getByRole('dialog').getByRole('combobox').fill('glow at the edge');
  await page.waitForTimeout(5000);
  await take('palette');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'More for Gale' }).click();
  await page.getByRole('menuitem', { name: /^Compare with/ }).click();
  await page.getByRole('tab', { name: 'Probe' }).click();
  await page.mouse.click(880, 290);
  await page.waitForTimeout(2500);
  await take('compare');
  await page.getByRole('button', { name: 'Stop comparing' }).click();
  await page.goto(`${address}${await page.evaluate(() => location.pathname)}/export`);
  await page
    .getByText(/^same( to 1 of 255)?$/)
    .first()
    .waitFor({ timeout: 60_000 });
  await page.waitForTimeout(3000);
  await take('export');
  await open('Whirl drain', '?view=radial', 36);
  await page.getByRole('button', { name: 'Light', exact: true }).click();
  await page.getByRole('button', { name: 'Room', exact: true }).click();
  await page.keyboard.press('Escape');
  await page.waitForTimeout(1500);
  await take('lit');
  await page.goto(`${address}${await page.evaluate(() => location.pathname)}/export?part=gltf&mesh=radial`);
  await page.locator('canvas[data-state=shown]').waitFor({ timeout: 60_000 });
  await page.waitForTimeout(4000);
  await take('gltf');
  await open('Mist curtain', '?lens=tiling', 36);
  await page.getByRole('textbox', { name: 'Text of the material' }).getByText('270deg').dblclick();
  await page.keyboard.insertText('270');
  await page.waitForTimeout(1500);
  await take('bench-error');
  // A broken material, its Checks, and the same once fixed.
  await open('Stray haze', '', 60);
  await page.getByRole('tab', { name: /^Checks/ }).click();
  await page.waitForTimeout(1500);
  await take('checks');
  // A flipbook: measured, playing beside the live material, and then among the bakes of the project.
  await open('Aurora dome', '?panel=bake', 45);
  const stageHeight = page.getByRole('separator', { name: 'Height of the Stage' });
  await stageHeight.focus();
  for (let i = 0; i < 6; i++) await page.keyboard.press('ArrowUp');
  await page.getByRole('separator', { name: 'Height of the Loop deck' }).focus();
  await page.keyboard.press('End');
  await page.getByRole('button', { name: 'Each frame held' }).first().click();
  await page.getByRole('button', { name: 'Measure', exact: true }).click();
  await page.getByRole('table', { name: /^Differences/ }).waitFor({ timeout: 120_000 });
  await page.getByRole('combobox', { name: 'Channels' }).click();
  await page.getByRole('option', { name: 'packed' }).click();
  await page.waitForTimeout(8000);
  await take('bake');
  await page.getByRole('button', { name: 'Start bake' }).click();
  const bakes = `${new URL(page.url()).origin}${await page.getByRole('link', { name: 'Bakes' }).getAttribute('href')}`;
  await page.getByRole('region', { name: 'Baked' }).waitFor({ timeout: 120_000 });
  await page.getByRole('button', { name: 'Sequence' }).click();
  await page.getByRole('button', { name: 'More settings' }).click();
  await page.getByRole('textbox', { name: 'Samples per pixel side' }).fill('6');
  await page.getByRole('textbox', { name: 'Samples per pixel side' }).press('Enter');
  await page.getByRole('button', { name: 'Start bake' }).click();
  await page.goto(bakes);
  await page.getByText(/a second, .* left/).waitFor({ timeout: 120_000 });
  await take('bakes');
  await page.getByRole('button', { name: 'Cancel' }).click();
  await open('Petal ward', '', 118);
  // Only lines in sight are there to be clicked.
  const text = page.getByRole('textbox', { name: 'Text of the material' });
  await text.focus();
  await page.keyboard.press('Control+End');
  await page.getByRole('button', { name: 'Explain the dissolve of ward' }).click();
  await page.waitForTimeout(1500);
  await page.mouse.move(900, 200);
  await page.waitForTimeout(1500);
  await take('dissolve');
  const [project] = await (await fetch(`${address}/api/projects`)).json();
  const sources = await (await fetch(`${address}/api/projects/${project.id}/sources`)).json();
  const at = (name) =>
    `${address}/projects/${project.id}/sources/${name ? sources.find((s) => s.name === name).id : ''}`;
  await page.goto(at().slice(0, -1));
  await page.waitForTimeout(6000);
  await take('sources');
  await page.goto(at('moss-cut.png'));
  await page.getByRole('group', { name: 'Histogram of Red' }).waitFor();
  await page.getByRole('button', { name: '3x3' }).click();
  await page.getByRole('button', { name: 'Show the worst places' }).click();
  await page.waitForTimeout(1500);
  await take('source');
  await page.goto(at('fern-ring.png'));
  await page.waitForTimeout(4000);
  await page.getByRole('button', { name: 'Point 3 of 8' }).click();
  await page.waitForTimeout(500);
  await take('path');
  // Meshes: Fit, and a set.
  const list = async (what) => (await fetch(`${address}/api/projects/${project.id}/${what}`)).json();
  const [tube] = await list('meshes');
  await page.goto(`${address}/projects/${project.id}/meshes/${tube.id}`);
  const choose = async (field, option) => {
    await page.getByRole('combobox', { name: field, exact: true }).click();
    await page.getByRole('option', { name: option, exact: true }).click();
  };
  await choose('Material', 'Sap line');
  await choose('Variant', 'Vein');
  await page.waitForTimeout(4000);
  await page.getByRole('button', { name: 'Pause' }).click();
  await page.mouse.move(900, 300);
  await page.waitForTimeout(2000);
  await take('fit');
  const set = (await list('sets')).find((s) => s.name === 'Fall into the drain');
  await page.goto(`${address}/projects/${project.id}/sets/${set.id}`);
  await page.waitForTimeout(6000);
  await page.getByRole('button', { name: 'Pause' }).click();
  await page.getByRole('button', { name: /^Bent sheet/ }).click();
  await page.mouse.move(1100, 400);
  await page.waitForTimeout(3000);
  await take('set');
} finally {
  await browser.close();
  server.kill();
  rmSync(data, { recursive: true, force: true });
}
