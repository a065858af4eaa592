// npm run estela -- ...: the command line, built first where it is stale.
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { build } from './build.mjs';
import { needPackages, root } from './install.mjs';

needPackages();
await build(['player', 'cli']);
const { status } = spawnSync(process.execPath, [join(root, 'packages/cli/dist/main.js'), ...process.argv.slice(2)], {
  stdio: 'inherit',
  cwd: process.env.INIT_CWD ?? process.cwd(),
});
process.exit(status ?? 1);
