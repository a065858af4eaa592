import { copyFile, mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, expect, test, type Page } from '@playwright/test';
import { PORT } from '../demo-data.ts';
import { chromiumFlags } from '../playwright.config.ts';
import { startServer } from '../server.ts';

const TOKEN = 'only-for-the-greenhouse';
/** Beyond those of the workers' servers. */
const TEAM_PORT = PORT + 40;

test('a team comes in by a token, over plain http, and works as on the machine itself', async ({}, {
  parallelIndex,
}) => {
  const folder = await mkdtemp(join(tmpdir(), 'estela-team-'));
  await copyFile(join(process.env.ESTELA_TEST_DEMO!, 'estela.sqlite'), join(folder, 'estela.sqlite'));
  const port = TEAM_PORT + parallelIndex;
  const server = await startServer(folder, port, undefined, ['--allow-host', 'estela.test', '--token', TOKEN]);
  // A name that is no secure context, as any but this machine's own is without https.
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: [...chromiumFlags, '--host-resolver-rules=MAP estela.test 127.0.0.1'],
  });
  try {
    const page: Page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    const errors: string[] = [];
    page.on('pageerror', (error) => errors.push(error.message));
    const address = `http://estela.test:${String(port)}`;
    await page.goto(address);
    await expect(page.getByText('This server needs an access token')).toBeVisible();
    await page.getByLabel('Token').fill('not this one, surely');
    await page.getByRole('button', { name: 'Come in' }).click();
    await expect(page.getByText('Wrong token')).toBeVisible();
    await page.getByLabel('Token').fill(TOKEN);
    await page.getByRole('button', { name: 'Come in' }).click();
    await expect(page.getByRole('heading', { name: 'Glasshouse Nine' })).toBeVisible();
    expect(page.url()).toBe(`${address}/`);
    expect(await page.evaluate(() => [isSecureContext, typeof SharedArrayBuffer])).toEqual([false, 'undefined']);

    await page.getByRole('link', { name: 'Open Mist curtain' }).click();
    const text = page.getByRole('textbox', { name: 'Text of the material' });
    await expect(text).toContainText('film');
    await expect(page.getByRole('img', { name: 'The material' })).toHaveAttribute('aria-busy', 'false');
    await page.getByRole('button', { name: 'End the tour' }).click();
    await page.getByRole('slider', { name: 'sway' }).press('ArrowRight');
    await expect(page.getByRole('status', { name: 'Saving' })).toHaveText(/^saved, revision [2-9]/);
    // What https alone offers is done otherwise.
    await page.getByRole('button', { name: 'More for the dials' }).click();
    await page.getByRole('button', { name: 'Copy as JSON' }).click();
    await expect(page.getByText('Copied.')).toBeVisible();
    await page.keyboard.press('Escape');
    await page.getByRole('tab', { name: /^Sources/ }).click();
    await page.getByRole('button', { name: 'Use moss.png' }).click();
    await expect(text).toContainText('sample(moss)');
    await page.getByRole('link', { name: 'Open Sources' }).click();
    await page.getByRole('link', { name: 'Open moss-tones.png' }).click();
    await expect(page.getByRole('group', { name: 'Left and right edge' })).toBeVisible();
    expect(errors).toEqual([]);
    // Another program, by the same token.
    const headers = { authorization: `Bearer ${TOKEN}` };
    expect((await fetch(`${server.address}/api/projects`, { headers })).status).toBe(200);
    expect((await fetch(`${server.address}/api/projects`)).status).toBe(401);
  } finally {
    await browser.close();
    await server.end();
    await rm(folder, { recursive: true, force: true });
  }
});
