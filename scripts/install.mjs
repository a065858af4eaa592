import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

/** The project's folder. */
export const root = fileURLToPath(new URL('..', import.meta.url));

/** Runs a command in the project's folder, shown as it runs; stops everything with a plain sentence where it fails. */
export function run(command, args, { why, env = {} } = {}) {
  const done = spawnSync(command, args, { cwd: root, stdio: 'inherit', env: { ...process.env, ...env } });
  if (done.status === 0) return;
  console.error(why ?? `${command} ${args.join(' ')} failed.`);
  process.exit(done.status ?? 1);
}

const has = (command) => spawnSync('sh', ['-c', `command -v ${command}`], { stdio: 'ignore' }).status === 0;

/** Installs Debian packages where the commands they bring are missing. */
export function needCommands(packages, purpose) {
  const missing = Object.entries(packages).filter(([command]) => !has(command));
  if (missing.length === 0) return;
  const names = [...new Set(missing.map(([, name]) => name))];
  const by = process.getuid?.() === 0 ? [] : has('sudo') ? ['sudo'] : undefined;
  if (!by || !has('apt-get')) {
    console.error(
      `${purpose} needs ${missing.map(([command]) => command).join(', ')}. Install the Debian packages ${names.join(' ')} and start again.`,
    );
    process.exit(1);
  }
  console.log(`Installing ${names.join(', ')}: ${purpose.toLowerCase()} needs them.`);
  const why = `${names.join(', ')} could not be installed. Install them yourself and start again.`;
  const [command = 'apt-get', ...rest] = [...by, 'apt-get'];
  const env = { DEBIAN_FRONTEND: 'noninteractive' };
  run(command, [...rest, 'update', '-qq'], { why, env });
  run(command, [...rest, 'install', '-y', '-qq', '--no-install-recommends', ...names], { why, env });
}

/** What shader packages are judged with: commands, and the Debian packages that bring them. */
export const JUDGES = {
  chromium: 'chromium',
  gcc: 'gcc',
  glslangValidator: 'glslang-tools',
  'spirv-val': 'spirv-tools',
  'spirv-cross': 'spirv-cross',
};

/** Installs the npm packages, if the lock file has changed since they were. */
export function needPackages() {
  const major = Number(process.versions.node.split('.')[0]);
  if (major < 20) {
    console.error(`Estela needs Node 20 or newer; this is ${process.versions.node}.`);
    process.exit(1);
  }
  const lock = createHash('sha256')
    .update(readFileSync(`${root}/package-lock.json`))
    .digest('hex');
  const stamp = `${root}/node_modules/.estela-lock`;
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === `${lock} ${process.version}`) return;
  // sqlite3 is compiled where no built one can be fetched.
  needCommands({ python3: 'python3', make: 'make', 'g++': 'g++' }, 'The database');
  console.log('Installing packages; the first time takes some minutes.');
  run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'], {
    why: 'The packages could not be installed; is the npm registry reachable?',
  });
  writeFileSync(stamp, `${lock} ${process.version}`);
}
