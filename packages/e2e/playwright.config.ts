import { mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { defineConfig } from '@playwright/test';

const port = Number(process.env.ESTELA_TEST_PORT ?? 4617);
// Workers read this file again; only the first reading makes the folder.
process.env.ESTELA_TEST_DATA ??= mkdtempSync(join(tmpdir(), 'estela-e2e-'));

/** The real server and the real build, in Debian's Chromium with WebGL in software. */
export default defineConfig({
  testDir: 'tests',
  workers: 1,
  timeout: 90_000,
  expect: { timeout: 20_000 },
  reporter: [['list'], ['json']],
  outputDir: '../../test-results',
  use: {
    baseURL: `http://127.0.0.1:${String(port)}`,
    viewport: { width: 1280, height: 800 },
    trace: 'retain-on-failure',
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: JSON.parse(readFileSync(new URL('../../scripts/chromium-flags.json', import.meta.url), 'utf8')) as string[],
    },
  },
  webServer: {
    command: `node ../server/dist/main.js --port ${String(port)} --data ${process.env.ESTELA_TEST_DATA}`,
    url: `http://127.0.0.1:${String(port)}/api/projects`,
    timeout: 60_000,
    reuseExistingServer: false,
  },
});
