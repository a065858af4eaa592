// npm start: installs what is missing, builds what is stale, then becomes the server, which migrates, seeds and serves.
import { spawn } from 'node:child_process';
import { build } from './build.mjs';
import { needPackages, root } from './install.mjs';

needPackages();
await build(['player', 'web', 'server', 'cli']);
const server = spawn(process.execPath, ['packages/server/dist/main.js', ...process.argv.slice(2)], {
  cwd: root,
  stdio: 'inherit',
});
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal));
server.on('exit', (code) => process.exit(code ?? 0));
