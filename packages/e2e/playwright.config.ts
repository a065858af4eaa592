import { readFileSync } from 'node:fs';
import { defineConfig } from '@playwright/test';

export const chromiumFlags = JSON.parse(
  readFileSync(new URL('../../scripts/chromium-flags.json', import.meta.url), 'utf8'),
) as string[];

/** What a test uses in which materials play from the start, as they do for most people. */
export const MOTION = { contextOptions: { reducedMotion: 'no-preference' as const } };

/**
 * The real server and the real build, in Debian's Chromium with WebGL in software; each worker has a server of its own.
 */
export default defineConfig({
  testDir: 'tests',
  globalSetup: './demo-data.ts',
  workers: 2,
  fullyParallel: true,
  // A trace costs a fifth of a test's time: only what fails is run again, with one, and still fails the run.
  retries: 1,
  failOnFlakyTests: true,
  // Long enough for a machine that is several times slower: none of them tells how fast one is.
  timeout: 240_000,
  expect: { timeout: 60_000 },
  reporter: [['list'], ['json']],
  outputDir: '../../test-results',
  use: {
    viewport: { width: 1280, height: 800 },
    trace: 'on-first-retry',
    // Nothing plays unless it is played: that alone takes a core. MOTION is for what is about playing.
    contextOptions: { reducedMotion: 'reduce' },
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: chromiumFlags,
    },
  },
});
