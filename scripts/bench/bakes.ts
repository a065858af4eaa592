import { execFileSync, spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { cliBefore } from './before.ts';
import { paired, type Pair } from './timing.ts';

/** Milliseconds that a command of Estela takes, by the wall. */
function wall(main: string, args: readonly string[]): number {
  const out = mkdtempSync(join(tmpdir(), 'estela-bench-'));
  try {
    const start = performance.now();
    execFileSync(process.execPath, [main, 'bake', ...args, '--out', join(out, 'frames')], { stdio: 'pipe' });
    return performance.now() - start;
  } finally {
    rmSync(out, { recursive: true, force: true });
  }
}

/** Frames of a demo material as PNG files: of the state before, and now, turn by turn. */
export function bakeWall(root: string, material: string, frames: number, size: number, turns = 3): Pair {
  const file = join(root, 'demo/materials', `${material}.wake`);
  const common = [file, '--size', `${String(size)}x${String(size)}`, '--frames', `0..${String(frames - 1)}`];
  const before = cliBefore(root);
  return paired(
    turns,
    () => [
      wall(before, [...common, '--format', 'png']),
      wall(join(root, 'packages/cli/dist/main.js'), [...common, '--format', 'sequence']),
    ],
    0,
  );
}

/** Most memory that is resident while frames of 2048 x 2048 are written, in MB. */
export async function bakeMemory(root: string, frames: number): Promise<number> {
  const out = mkdtempSync(join(tmpdir(), 'estela-bench-'));
  const file = join(out, 'wide.wake');
  writeFileSync(
    file,
    'loop 16s at 16fps\nsurface unlit blend two-sided\nout color = (uv.x, uv.y, phase)\nout opacity = uv.x\n',
  );
  const main = join(root, 'packages/cli/dist/main.js');
  const args = [
    'bake',
    file,
    '--size',
    '2048x2048',
    '--frames',
    `0..${String(frames - 1)}`,
    '--out',
    join(out, 'frames'),
  ];
  try {
    const child = spawn(process.execPath, [main, ...args], { stdio: 'ignore' });
    let most = 0;
    const watch = setInterval(() => {
      try {
        const [, kilobytes] = /VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${String(child.pid)}/status`, 'utf8')) ?? [];
        most = Math.max(most, Number(kilobytes ?? 0) / 1024);
      } catch {
        // It has ended.
      }
    }, 50);
    const code = await new Promise((done) => child.on('exit', done));
    clearInterval(watch);
    if (code !== 0) throw new Error(`The bake ended with ${String(code)}.`);
    return most;
  } finally {
    rmSync(out, { recursive: true, force: true });
  }
}
