import { spawn } from 'node:child_process';
import { build } from './build.mjs';
import { needPackages, root } from './install.mjs';

/** Installs what is missing, builds what is stale, then becomes a program of the server's build, which gets the rest of the line. */
export async function becomes(program, packages) {
  needPackages();
  await build(packages);
  const child = spawn(process.execPath, [`packages/server/dist/${program}.js`, ...process.argv.slice(2)], {
    cwd: root,
    stdio: 'inherit',
  });
  for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => child.kill(signal));
  child.on('exit', (code) => process.exit(code ?? 0));
}
