// npm test: installs what is missing, then lint, types, unit tests and browser tests. The last line counts what ran.
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { build } from './build.mjs';
import { needCommands, needPackages, root } from './install.mjs';

needPackages();
needCommands({ chromium: 'chromium', glslangValidator: 'glslang-tools', pngcheck: 'pngcheck', 'convert-im6.q16': 'imagemagick' }, 'The tests');

const cache = join(root, '.cache');
mkdirSync(cache, { recursive: true });
let [passed, failed] = [0, 0];

function stage(name, command, args, env = {}) {
  console.log(`\n== ${name}`);
  const { status } = spawnSync(command, args, { cwd: root, stdio: 'inherit', env: { ...process.env, ...env } });
  return status === 0;
}

/** A stage that counts as one. */
function single(name, command, args) {
  if (stage(name, command, args)) passed++;
  else failed++;
}

/** A stage that writes a report, from which its tests are counted; a broken run without failed tests counts as one failure. */
function counted(name, command, args, report, count, env = {}) {
  rmSync(report, { force: true });
  const ok = stage(name, command, args, env);
  const [good, bad] = existsSync(report) ? count(JSON.parse(readFileSync(report, 'utf8'))) : [0, 0];
  passed += good;
  failed += ok ? bad : Math.max(bad, 1);
  if (ok && good + bad === 0) failed++;
}

build();
const bin = (path) => join(root, 'node_modules', path);
single('Lint', process.execPath, [bin('eslint/bin/eslint.js'), '.', '--max-warnings', '0']);
single('Format', process.execPath, [bin('prettier/bin/prettier.cjs'), '--check', '.', '--log-level', 'warn']);
single('Arrows', process.execPath, [
  bin('dependency-cruiser/bin/dependency-cruise.mjs'),
  'packages',
  '--config',
  '.dependency-cruiser.cjs',
  '--output-type',
  'err',
]);
single('Types', process.execPath, ['scripts/types.mjs']);
const jest = join(cache, 'jest.json');
counted(
  'Unit tests',
  process.execPath,
  ['--experimental-vm-modules', '--no-warnings=ExperimentalWarning', bin('jest/bin/jest.js'), '--json', `--outputFile=${jest}`],
  jest,
  (r) => [r.numPassedTests, r.numFailedTests + r.numRuntimeErrorTestSuites],
);
const browser = join(cache, 'browser.json');
counted(
  'Browser tests',
  process.execPath,
  [bin('@playwright/test/cli.js'), 'test', '--config', 'packages/e2e/playwright.config.ts'],
  browser,
  (r) => [r.stats.expected + r.stats.flaky, r.stats.unexpected],
  {
    PLAYWRIGHT_JSON_OUTPUT_NAME: browser,
  },
);

console.log(`\n${passed} passed, ${failed} failed`);
process.exit(failed === 0 ? 0 : 1);
