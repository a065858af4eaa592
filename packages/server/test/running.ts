import { spawn, type ChildProcess } from 'node:child_process';
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

export interface Running {
  readonly process: ChildProcess;
  readonly address: string;
  /** What it has said so far. */
  readonly said: () => string;
  readonly end: (signal: NodeJS.Signals) => Promise<number | null>;
}
const running = new Set<Running>();

async function freePort(): Promise<number> {
  const server = createServer().listen(0, '127.0.0.1');
  await once(server, 'listening');
  const { port } = server.address() as AddressInfo;
  server.close();
  return port;
}

/** Starts a server on a folder; `before` is a line of shell that is run in its process first. */
export async function start(data: string, before = ':'): Promise<Running> {
  const port = await freePort();
  const child = spawn(
    'bash',
    [
      '-c',
      `${before}; exec "$0" "$@"`,
      process.execPath,
      join(ROOT, 'packages/server/dist/main.js'),
      '--port',
      String(port),
      '--data',
      data,
    ],
    {
      env: { ...process.env, ESTELA_LOG: 'debug' },
    },
  );
  let words = '';
  for (const stream of [child.stdout, child.stderr])
    stream.on('data', (chunk: Buffer) => {
      words += chunk.toString();
    });
  const one: Running = {
    process: child,
    address: `http://127.0.0.1:${String(port)}/api`,
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

/** Asks again and again until it is so; the runner ends what never is. */
export async function until(so: () => boolean): Promise<void> {
  while (!so()) await pause(20);
}
export async function ready(data: string, before?: string): Promise<Running> {
  const one = await start(data, before);
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

export interface Material {
  readonly id: string;
  readonly revision: number;
  readonly text: string;
}
export const materials = async ({ address }: Running): Promise<Material[]> => {
  const [project] = (await (await fetch(`${address}/projects`)).json()) as { id: string }[];
  return (await (await fetch(`${address}/projects/${project!.id}/materials`)).json()) as Material[];
};
export const save = ({ address }: Running, id: string, revision: number, text: string): Promise<Response> =>
  fetch(`${address}/materials/${id}`, {
    method: 'PUT',
    headers: { 'content-type': 'application/json', 'if-match': `"${String(revision)}"` },
    body: JSON.stringify({ text }),
  });

/** Builds what is started, where it is not built already. */
export async function build(): Promise<void> {
  const { build: run } = (await import(join(ROOT, 'scripts/build.mjs'))) as {
    build: (names: string[]) => Promise<void>;
  };
  await run(['server']);
}
/** Ends every process that still runs, and drops the folders. */
export async function endAll(): Promise<void> {
  for (const one of running) await one.end('SIGKILL');
  rmSync(folder, { recursive: true, force: true });
}
