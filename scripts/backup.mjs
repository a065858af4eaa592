// npm run backup -- --to FILE and npm run restore -- --from FILE: the database of a data folder, also of a running server.
import { spawnSync } from 'node:child_process';
import { build } from './build.mjs';
import { needPackages, root } from './install.mjs';

needPackages();
await build(['server']);
const args = [`${root}/packages/server/dist/backup.js`, ...process.argv.slice(2)];
process.exit(spawnSync(process.execPath, args, { cwd: root, stdio: 'inherit' }).status ?? 1);
