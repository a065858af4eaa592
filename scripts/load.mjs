// npm run load: how much a server takes, and that it refuses nothing it should not. Loopback, half a minute; the last
// lines count.
import { spawnSync } from 'node:child_process';
import { build } from './build.mjs';
import { needPackages, root } from './install.mjs';

needPackages();
await build(['server']);
const args = ['--import', 'tsx', 'scripts/load/main.ts', ...process.argv.slice(2)];
process.exit(spawnSync(process.execPath, args, { cwd: root, stdio: 'inherit' }).status ?? 1);
