import { spawn, type ChildProcess } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { once } from 'node:events';
import { copyFileSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { createServer, type AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';

/** The server as it is started by hand: a process of its own, from its build. */
export const ROOT = join(import.meta.dirname, '../../..');
export const folder = mkdtempSync(join(tmpdir(), 'estela-process-'));
export const seeded = join(folder, 'seeded');

/** A program that runs. */
export interface Spawned {
  readonly process: ChildProcess;
  /** What it has said so far. */
  readonly said: () => string;
  /** Ends it, where it has not ended; gives its exit code. */
  readonly end: (signal: NodeJS.Signals) => Promise<number | null>;
}
export interface Running extends Spawned {
  readonly address: string;
  readonly port: number;
}
const running = new Set<Spawned>();

export async function freePort(): Promise<number> {
  const server = createServer().listen(0, '127.0.0.1');
  await once(server, 'listening');
  const { port } = server.address() as AddressInfo;
  server.close();
  return port;
}

/** Starts a program; `before` is a line of shell that is run in its process first. */
export function spawned(command: string, args: readonly string[], env: NodeJS.ProcessEnv = {}, before = ':'): Spawned {
  const child = spawn('bash', ['-c', `${before}; exec "$0" "$@"`, command, ...args], {
    env: { ...process.env, ...env },
  });
  let words = '';
  for (const stream of [child.stdout, child.stderr])
    stream.on('data', (chunk: Buffer) => {
      words += chunk.toString();
    });
  const one: Spawned = {
    process: child,
    said: () => words,
    async end(signal) {
      running.delete(one);
      if (child.exitCode !== null || child.signalCode !== null) return child.exitCode;
      const over = once(child, 'exit') as Promise<[number | null]>;
      child.kill(signal);
      return (await over)[0];
    },
  };
  running.add(one);
  return one;
}

const built = (program: string): string => join(ROOT, 'packages/server/dist', `${program}.js`);

export interface ServerStart {
  readonly port?: number;
  readonly args?: readonly string[];
  /** A line of shell that is run in its process first. */
  readonly before?: string;
}
/** Starts a server on a folder. */
export async function start(data: string, { port, args = [], before }: ServerStart = {}): Promise<Running> {
  const own = port ?? (await freePort());
  const all = [built('main'), '--port', String(own), '--data', data, ...args];
  const one = spawned(process.execPath, all, { ESTELA_LOG: 'debug' }, before);
  return { ...one, port: own, address: `http://127.0.0.1:${String(own)}/api` };
}
/** Starts a worker of a server. */
export const startWorker = (args: readonly string[], env: NodeJS.ProcessEnv = {}, before?: string): Spawned =>
  spawned(process.execPath, [built('worker'), ...args], env, before);

/** Asks again and again until it is so; the runner ends what never is. */
export async function until(so: () => boolean): Promise<void> {
  while (!so()) await pause(20);
}
export async function ready(data: string, how: ServerStart = {}): Promise<Running> {
  const one = await start(data, how);
  await until(() => one.said().includes('Estela is at') || one.process.exitCode !== null);
  if (one.process.exitCode !== null) throw new Error(one.said());
  return one;
}
/** A new folder with the demo in it. */
export function withDemo(name: string): string {
  const data = join(folder, name);
  mkdirSync(data, { recursive: true });
  copyFileSync(join(seeded, 'estela.sqlite'), join(data, 'estela.sqlite'));
  return data;
}

/** A Redis that writes down each change before it answers. */
export async function startRedis(
  port?: number,
  name: string = randomUUID(),
  more: readonly string[] = [],
  before?: string,
): Promise<Spawned & { url: string; port: number }> {
  const own = port ?? (await freePort());
  const dir = join(folder, `redis-${name}`);
  mkdirSync(dir, { recursive: true });
  const args = [
    '--port',
    String(own),
    '--dir',
    dir,
    '--save',
    '',
    '--appendonly',
    'yes',
    '--appendfsync',
    'always',
    ...more,
  ];
  const one = spawned('redis-server', args, {}, before);
  await until(() => one.said().includes('Ready to accept connections') || one.process.exitCode !== null);
  return { ...one, port: own, url: `redis://127.0.0.1:${String(own)}` };
}

export interface Material {
  readonly id: string;
  readonly revision: number;
  readonly text: string;
}
export const materials = async ({ address }: Pick<Running, 'address'>): Promise<Material[]> => {
  const [project] = (await (await fetch(`${address}/projects`)).json()) as { id: string }[];
  return (await (await fetch(`${address}/projects/${project!.id}/materials`)).json()) as Material[];
};
export const save = (
  { address }: Pick<Running, 'address'>,
  id: string,
  revision: number,
  text: string,
): Promise<Response> =>
  fetch(`${address}/materials/${id}`, {
    method: 'PUT',
    headers: { 'content-type': 'application/json', 'if-match': `"${String(revision)}"` },
    body: JSON.stringify({ text }),
  });

/** Builds the server, and what else is started, where it is not built already. */
export async function build(...others: readonly string[]): Promise<void> {
  const { build: run } = (await import(join(ROOT, 'scripts/build.mjs'))) as {
    build: (names: string[]) => Promise<void>;
  };
  await run(['server', ...others]);
}
/** Ends every process that still runs, and drops the folders. */
export async function endAll(): Promise<void> {
  for (const one of running) await one.end('SIGKILL');
  rmSync(folder, { recursive: true, force: true });
}
