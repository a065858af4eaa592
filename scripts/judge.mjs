// npm run judge: what leaves is held against every judge, on all there is: three runs, each of every operation's
// example, the demo and 200 other random programs, at another moment. Some 40 minutes. The last lines count.
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { build } from './build.mjs';
import { JUDGES, needCommands, needPackages, root } from './install.mjs';

needPackages();
needCommands(JUDGES, 'The judges');
await build();
const bin = (path) => join(root, 'node_modules', path);
const STAGES = {
  'HLSL, SPIR-V, C, JavaScript': [
    '--experimental-vm-modules',
    '--no-warnings=ExperimentalWarning',
    bin('jest/bin/jest.js'),
    '--maxWorkers=2',
    '--testTimeout=1200000',
    '--testPathPatterns',
    'core/test/(handover|package|backends)',
  ],
  'GLSL, HLSL and WGSL in a browser': [
    bin('@playwright/test/cli.js'),
    'test',
    '--config',
    'packages/e2e/playwright.config.ts',
    'targets.spec.ts',
    'parity.spec.ts',
    'export.spec.ts',
  ],
};
const results = [];
const runs = Number(process.argv[2] ?? 3);
for (let run = 1; run <= runs; run++)
  for (const [name, args] of Object.entries(STAGES)) {
    const start = performance.now();
    const env = { ...process.env, ESTELA_JUDGE: String(run) };
    const { status } = spawnSync(process.execPath, args, { cwd: root, stdio: 'inherit', env });
    const minutes = ((performance.now() - start) / 60_000).toFixed(1);
    results.push(`Run ${run}, ${name}: ${status === 0 ? 'agreed' : 'DISAGREED'}, ${minutes} minutes`);
    if (status !== 0) process.exitCode = 1;
  }
console.log(`\n${results.join('\n')}`);
