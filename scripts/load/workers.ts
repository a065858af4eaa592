import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import type { Bake, BakeWorker } from '@estela/contract';
import type { BakeRecipe } from '@estela/core';
import { Redis } from 'ioredis';
import { startServer } from '../../packages/e2e/server.ts';
import { cpuOf, made, peakOf } from './support.ts';

const [PORT, REDIS] = [4698, 6398];
const PROCESSES = 4;

/** A load of bakes: how their chunks are, and what came of it. */
interface Load {
  readonly what: string;
  readonly text: string;
  readonly recipe: BakeRecipe;
  readonly bakes: number;
}
const LOADS: readonly Load[] = [
  {
    what: 'chunks of clouds, 512 x 512',
    text: 'out color = uv |> fbm(12, octaves: 5)\n',
    recipe: { format: 'sequence', size: [512, 512], frames: { count: 150 } },
    bakes: 12,
  },
  {
    what: 'chunks of one colour, 512 x 512',
    text: 'out color = 0.5\n',
    recipe: { format: 'sequence', size: [512, 512], frames: { count: 300 } },
    bakes: 12,
  },
];

/** Waits until a process has said something. */
const saying = (child: ChildProcess, words: string): Promise<void> =>
  new Promise((resolve, reject) => {
    child.stdout?.on('data', (said: Buffer) => {
      if (said.toString().includes(words)) resolve();
    });
    child.on('exit', (code) => {
      reject(new Error(`ended with ${String(code)}`));
    });
  });

/**
 * So many workers that sleep for a second a chunk, at a server by way of Redis: writes what came of it, and gives
 * whether all was done.
 */
export async function workersAtWork(count: number): Promise<boolean> {
  const folder = mkdtempSync(join(tmpdir(), 'estela-workers-'));
  const children: ChildProcess[] = [];
  const started = (command: string, args: readonly string[]): ChildProcess => {
    const child = spawn(command, args, { stdio: ['ignore', 'pipe', 'inherit'] });
    children.push(child);
    return child;
  };
  try {
    const redisArgs = ['--port', String(REDIS), '--dir', folder, '--save', '', '--appendonly', 'yes'];
    const redisServer = started('redis-server', redisArgs);
    await saying(redisServer, 'Ready to accept');
    const url = `redis://127.0.0.1:${String(REDIS)}`;
    const server = await startServer(folder, PORT, undefined, ['--redis', url, '--requests', '100000000']);
    const api = `${server.address}/api`;
    const script = join(import.meta.dirname, 'sleepers.ts');
    const sleepers = Array.from({ length: PROCESSES }, () =>
      started(process.execPath, ['--import', 'tsx', script, url, server.address, String(count / PROCESSES), '1']),
    );
    await Promise.all(sleepers.map((child) => saying(child, 'ready')));
    const redis = new Redis(url);
    const rows: string[] = [];
    let whole = true;
    for (const { what, text, recipe, bakes } of LOADS) {
      const { id: project } = await made<{ id: string }>(`${api}/projects`, { name: what });
      const { id: material } = await made<{ id: string }>(`${api}/projects/${project}/materials`, { text });
      const commands = async (): Promise<number> =>
        Number(/total_commands_processed:(\d+)/.exec(await redis.info('stats'))?.[1]);
      const done = async (): Promise<number> =>
        ((await (await fetch(`${api}/workers`)).json()) as BakeWorker[]).reduce((sum, w) => sum + w.chunks, 0);
      const before = { at: performance.now(), cpu: cpuOf(server.pid), commands: await commands(), done: await done() };
      for (let i = 0; i < bakes; i++) await made<Bake>(`${api}/materials/${material}/bakes`, recipe);
      let all: Bake[] = [];
      do {
        await pause(250);
        all = (await (await fetch(`${api}/projects/${project}/bakes`)).json()) as Bake[];
      } while (all.some(({ state }) => state === 'queued' || state === 'running'));
      const seconds = (performance.now() - before.at) / 1000;
      const chunks = (await done()) - before.done;
      const bytes = all.reduce((sum, { file }) => sum + (file?.size ?? 0), 0);
      whole &&= all.every(({ state, done: frames, total }) => state === 'done' && frames === total);
      rows.push(
        `| ${what} | ${String(chunks)} | ${(bytes / chunks / 1024).toFixed(1)} kB | ${(chunks / seconds).toFixed(0)} | ${(bytes / seconds / 1024 ** 2).toFixed(1)} MB | ${(((cpuOf(server.pid) - before.cpu) / chunks) * 1000).toFixed(1)} ms | ${(((await commands()) - before.commands) / chunks).toFixed(0)} | ${all.filter((b) => b.state !== 'done').length} |`,
      );
    }
    const memory = /used_memory_peak:(\d+)/.exec(await redis.info('memory'))?.[1] ?? '0';
    redis.disconnect();
    console.log(
      `\n${String(count)} workers that sleep for a second a chunk; the server's memory at most ${peakOf(server.pid).toFixed(0)} MB, Redis' ${(Number(memory) / 1024 ** 2).toFixed(0)} MB.\n`,
    );
    console.log(
      '| chunks | number | each | a second | bytes a second | server CPU a chunk | Redis commands a chunk | bakes lost |',
    );
    console.log('|---|---|---|---|---|---|---|---|');
    for (const row of rows) console.log(row);
    await Promise.all(
      sleepers.map((child) => {
        const over = once(child, 'exit');
        child.kill();
        return over;
      }),
    );
    await server.end();
    return whole;
  } finally {
    for (const child of children) child.kill('SIGKILL');
    rmSync(folder, { recursive: true, force: true });
  }
}
