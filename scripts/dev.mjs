// npm run dev: the server on port 4600, and Vite on 4601, which brings changes to the page as they are made.
import { spawn } from 'node:child_process';
import { build } from './build.mjs';
import { needPackages, root } from './install.mjs';

needPackages();
await build(['player', 'server', 'cli']);
const children = [
  spawn(process.execPath, ['packages/server/dist/main.js', '--port', '4600', ...process.argv.slice(2)], {
    cwd: root,
    stdio: 'inherit',
  }),
  spawn(
    process.execPath,
    ['node_modules/vite/bin/vite.js', 'packages/web', '--config', 'packages/web/vite.config.ts'],
    { cwd: root, stdio: 'inherit' },
  ),
];
const stop = () => {
  for (const child of children) child.kill();
};
process.on('SIGINT', stop);
process.on('SIGTERM', stop);
for (const child of children) child.on('exit', stop);
