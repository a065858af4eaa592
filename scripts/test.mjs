// npm test: installs what is missing, then lint, types, unit tests and browser tests. The last lines say what each
// took, and count what ran.
import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { build } from './build.mjs';
import { JUDGES, needCommands, needPackages, root } from './install.mjs';

const times = [];
/** Takes down how long something took, in seconds. */
async function timed(name, act) {
  const start = performance.now();
  const result = await act();
  times.push([name, (performance.now() - start) / 1000]);
  return result;
}

await timed('Install', () => {
  needPackages();
  needCommands(
    {
      ...JUDGES,
      pngcheck: 'pngcheck',
      ffprobe: 'ffmpeg',
      'convert-im6.q16': 'imagemagick',
      'redis-server': 'redis-server',
      ip: 'iproute2',
    },
    'The tests',
  );
});

const cache = join(root, '.cache');
mkdirSync(cache, { recursive: true });
let [passed, failed] = [0, 0];

/** Runs a stage; what it says is shown at once where it is alone, else when it is done, so that two do not mix. */
const stage = (name, args, { alone = false, env = {} } = {}) =>
  timed(name, async () => {
    if (alone) console.log(`\n== ${name}`);
    const child = spawn(process.execPath, args, {
      cwd: root,
      stdio: alone ? 'inherit' : ['ignore', 'pipe', 'pipe'],
      env: { ...process.env, ...env },
    });
    let said = '';
    for (const stream of [child.stdout, child.stderr]) stream?.on('data', (words) => (said += words));
    const code = await new Promise((done) => child.on('close', done));
    if (!alone) console.log(`\n== ${name}\n${said.trimEnd()}`);
    return code === 0;
  });

/** A stage that counts as one. */
async function single(name, ...args) {
  if (await stage(name, args)) passed++;
  else failed++;
}

/**
 * A stage that writes a report, from which its tests are counted; a broken run without failed tests counts as one
 * failure.
 */
async function counted(name, args, report, count, env = {}) {
  rmSync(report, { force: true });
  const ok = await stage(name, args, { alone: true, env });
  const [good, bad] = existsSync(report) ? count(JSON.parse(readFileSync(report, 'utf8'))) : [0, 0];
  passed += good;
  failed += ok ? bad : Math.max(bad, 1);
  if (ok && good + bad === 0) failed++;
}

await timed('Build', () => build());
const bin = (path) => join(root, 'node_modules', path);
const inTurn = async (...acts) => {
  for (const act of acts) await act();
};
// Two at a time: most of them keep one core busy.
await Promise.all([
  inTurn(
    () => single('Lint', bin('oxlint/bin/oxlint')),
    () => single('Types', 'scripts/types.mjs'),
  ),
  inTurn(
    () => single('Format', bin('prettier/bin/prettier.cjs'), '--check', '.', '--log-level', 'warn'),
    () =>
      single(
        'Arrows',
        bin('dependency-cruiser/bin/dependency-cruise.mjs'),
        'packages',
        '--config',
        '.dependency-cruiser.cjs',
        '--output-type',
        'err',
      ),
  ),
]);
const jest = join(cache, 'jest.json');
await counted(
  'Unit tests',
  [
    '--experimental-vm-modules',
    '--no-warnings=ExperimentalWarning',
    bin('jest/bin/jest.js'),
    '--maxWorkers=2',
    '--json',
    `--outputFile=${jest}`,
  ],
  jest,
  (r) => [r.numPassedTests, r.numFailedTests + r.numRuntimeErrorTestSuites],
);
const browser = join(cache, 'browser.json');
await counted(
  'Browser tests',
  [bin('@playwright/test/cli.js'), 'test', '--config', 'packages/e2e/playwright.config.ts'],
  browser,
  (r) => [r.stats.expected, r.stats.unexpected + r.stats.flaky],
  { PLAYWRIGHT_JSON_OUTPUT_NAME: browser },
);

const all = times.reduce((sum, [, seconds]) => sum + seconds, 0);
console.log(`\n${times.map(([name, seconds]) => `${name} ${seconds.toFixed(1)} s`).join(', ')}`);
console.log(`${all.toFixed(1)} s of stages in ${(performance.now() / 1000).toFixed(1)} s`);
console.log(`${passed} passed, ${failed} failed`);
process.exit(failed === 0 ? 0 : 1);
