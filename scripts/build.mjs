import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { brotliCompress, gzip } from 'node:zlib';
import { root, run } from './install.mjs';

const sources = (name) => [`packages/${name}/src`, `packages/${name}/package.json`];
/** What each build is made of. */
const INPUTS = {
  player: ['packages/player', ...sources('core')],
  web: ['packages/web', ...['contract', 'codecs', 'core'].flatMap(sources)],
  server: ['packages/server', ...['contract', 'codecs', 'core'].flatMap(sources), 'demo'],
  cli: ['packages/cli', ...['codecs', 'core'].flatMap(sources)],
};

function* files(path) {
  if (statSync(path).isFile()) {
    yield path;
    return;
  }
  for (const name of readdirSync(path).sort())
    if (name !== 'dist' && name !== 'node_modules') yield* files(join(path, name));
}

function contentHash(paths) {
  const hash = createHash('sha256').update(readFileSync(join(root, 'package-lock.json')));
  for (const path of paths) for (const file of files(join(root, path))) hash.update(file).update(readFileSync(file));
  return hash.digest('hex');
}

/** Writes each file of text under a folder once more in Brotli and once in gzip, as servers hand it out. */
async function compress(folder) {
  for (const path of files(folder)) {
    if (!/\.(js|css|html|svg|json|wasm)$/.test(path)) continue;
    const bytes = readFileSync(path);
    const made = await Promise.all([promisify(brotliCompress)(bytes), promisify(gzip)(bytes, { level: 9 })]);
    ['br', 'gz'].forEach((ending, i) => {
      writeFileSync(`${path}.${ending}`, made[i]);
    });
  }
}

/** Whether a process is there; 0 where it has not said yet which it is. */
function runs(pid) {
  if (pid === 0) return true;
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return error.code === 'EPERM';
  }
}

/** Keeps the builds to this process: two terminals may start at once. */
async function alone(cache, act) {
  const lock = join(cache, 'building');
  for (;;) {
    try {
      writeFileSync(lock, String(process.pid), { flag: 'wx' });
      break;
    } catch (error) {
      if (error.code !== 'EEXIST') throw error;
      // One that was killed left it.
      if (!runs(Number(existsSync(lock) ? readFileSync(lock, 'utf8') : 0))) rmSync(lock, { force: true });
      else await new Promise((go) => setTimeout(go, 200));
    }
  }
  try {
    await act();
  } finally {
    rmSync(lock, { force: true });
  }
}

/** Builds those packages whose files have changed since their last build. */
export async function build(names = Object.keys(INPUTS)) {
  const cache = join(root, '.cache');
  mkdirSync(cache, { recursive: true });
  await alone(cache, () => buildStale(cache, names));
}

async function buildStale(cache, names) {
  for (const name of names) {
    const now = contentHash(INPUTS[name]);
    const stamp = join(cache, `${name}.built`);
    if (existsSync(join(root, 'packages', name, 'dist')) && existsSync(stamp) && readFileSync(stamp, 'utf8') === now)
      continue;
    console.log(`Building ${name}.`);
    run(process.execPath, [
      join(root, 'node_modules/vite/bin/vite.js'),
      'build',
      join(root, 'packages', name),
      '--config',
      join(root, 'packages', name, 'vite.config.ts'),
    ]);
    // Server and workers tell by it that they are built alike.
    if (name === 'server') writeFileSync(join(root, 'packages/server/dist/build-id.txt'), `${now}\n`);
    if (name === 'web') await compress(join(root, 'packages/web/dist/assets'));
    writeFileSync(stamp, now);
  }
}
