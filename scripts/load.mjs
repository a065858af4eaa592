// npm run load: how much a server takes, and that it refuses nothing it should not; then 200 workers that sleep instead
// of computing, by way of Redis. Loopback, some four minutes; the last lines count.
import { spawnSync } from 'node:child_process';
import { build } from './build.mjs';
import { needCommands, needPackages, root } from './install.mjs';

needPackages();
needCommands({ 'redis-server': 'redis-server' }, 'The load');
await build(['server']);
const args = ['--import', 'tsx', 'scripts/load/main.ts', ...process.argv.slice(2)];
process.exit(spawnSync(process.execPath, args, { cwd: root, stdio: 'inherit' }).status ?? 1);
