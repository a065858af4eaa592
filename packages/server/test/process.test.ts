import { execFileSync, spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import {
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { createServer, type AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { glbOf } from '@estela/codecs/mesh';
import { shapeMesh } from '@estela/core';
import { LogFile } from '../src/log-file.ts';

/** The server as it is started by hand: a process of its own, from its build. */
const ROOT = join(import.meta.dirname, '../../..');
const folder = mkdtempSync(join(tmpdir(), 'estela-process-'));
const seeded = join(folder, 'seeded');

interface Running {
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
async function start(data: string, before = ':'): Promise<Running> {
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
async function until(so: () => boolean): Promise<void> {
  while (!so()) await pause(20);
}
async function ready(data: string, before?: string): Promise<Running> {
  const one = await start(data, before);
  await until(() => one.said().includes('Estela is at') || one.process.exitCode !== null);
  if (one.process.exitCode !== null) throw new Error(one.said());
  return one;
}
/** A new folder with the demo in it. */
function withDemo(name: string): string {
  const data = join(folder, name);
  mkdirSync(data, { recursive: true });
  copyFileSync(join(seeded, 'estela.sqlite'), join(data, 'estela.sqlite'));
  return data;
}

interface Material {
  readonly id: string;
  readonly revision: number;
  readonly text: string;
}
const materials = async ({ address }: Running): Promise<Material[]> => {
  const [project] = (await (await fetch(`${address}/projects`)).json()) as { id: string }[];
  return (await (await fetch(`${address}/projects/${project!.id}/materials`)).json()) as Material[];
};
const save = ({ address }: Running, id: string, revision: number, text: string): Promise<Response> =>
  fetch(`${address}/materials/${id}`, {
    method: 'PUT',
    headers: { 'content-type': 'application/json', 'if-match': `"${String(revision)}"` },
    body: JSON.stringify({ text }),
  });

beforeAll(async () => {
  const { build } = (await import(join(ROOT, 'scripts/build.mjs'))) as { build: (names: string[]) => void };
  build(['server']);
}, 240_000);
afterAll(async () => {
  for (const one of running) await one.end('SIGKILL');
  rmSync(folder, { recursive: true, force: true });
});

describe('a server process', () => {
  it('whose first start is killed has made nothing, and makes the whole demo at the next', async () => {
    const first = await start(seeded);
    const draft = join(seeded, 'estela.sqlite.seeding');
    await until(() => existsSync(`${draft}-wal`) && statSync(`${draft}-wal`).size > 400_000);
    await first.end('SIGKILL');
    expect(existsSync(join(seeded, 'estela.sqlite'))).toBe(false);
    const again = await ready(seeded);
    const wakes = readdirSync(join(ROOT, 'demo/materials')).filter((f) => f.endsWith('.wake'));
    expect(again.said()).toContain(`Made the demo project Glasshouse Nine with ${String(wakes.length)} materials.`);
    expect(await materials(again)).toHaveLength(wakes.length);
    // SIGTERM ends it, and what it kept aside is gone.
    expect(await again.end('SIGTERM')).toBe(0);
    expect(readdirSync(seeded).filter((f) => f.includes('seeding') || f.endsWith('-wal'))).toEqual([]);
  }, 240_000);

  it('is alone on its folder, until it ends in whatever way', async () => {
    const data = withDemo('shared');
    const one = await ready(data);
    const second = await start(data);
    await until(() => second.process.exitCode !== null);
    expect([second.process.exitCode, second.said()]).toEqual([
      1,
      expect.stringMatching(/^Estela runs on .*shared already\. Stop that one, or start this one on another folder/),
    ]);
    const [material] = await materials(one);
    expect((await save(one, material!.id, material!.revision, 'out color = 0.5\n')).status).toBe(200);
    await one.end('SIGKILL');
    const after = await ready(data);
    expect(await materials(after)).toContainEqual(
      expect.objectContaining({ id: material!.id, text: 'out color = 0.5\n' }),
    );
    await after.end('SIGTERM');
  }, 240_000);

  it('goes on reading where its disk is full, says that nothing is saved, and saves once there is room', async () => {
    const disk = limitedDisk();
    try {
      const one = await ready(disk.data, disk.before);
      const [material, other] = await materials(one);
      disk.fill(one);
      const large = `out color = 0.25 // ${'x'.repeat(150_000)}\n`;
      let refused: Response | undefined;
      // What is left over here and there takes a few.
      for (let i = 0; i < 200 && refused?.status !== 507; i++)
        refused = await save(one, material!.id, material!.revision + i, `${large}// ${String(i)}\n`);
      expect(refused?.status).toBe(507);
      expect(await refused!.json()).toMatchObject({
        type: '/problems/no-room',
        detail: expect.stringContaining('Nothing of this was saved'),
      });
      const form = new FormData();
      form.set('name', 'sheet');
      form.set('file', new Blob([await glbOf(shapeMesh('plane', 60), 'sheet')]), 'sheet.glb');
      const [project] = (await (await fetch(`${one.address}/projects`)).json()) as { id: string }[];
      expect(
        (await fetch(`${one.address}/projects/${project!.id}/meshes`, { method: 'POST', body: form })).status,
      ).toBe(507);
      // The log has nowhere to go by now: nobody waits for it.
      for (let i = 0; i < 300; i++) expect((await fetch(`${one.address}/materials/${other!.id}`)).status).toBe(200);
      disk.empty(one);
      const [now] = await materials(one);
      expect((await save(one, now!.id, now!.revision, 'out color = 0.75\n')).status).toBe(200);
      expect((await materials(one))[0]!.text).toBe('out color = 0.75\n');
      disk.fill(one);
      expect(await one.end('SIGTERM')).toBe(0);
    } finally {
      disk.remove();
    }
  }, 240_000);
});

interface LimitedDisk {
  readonly data: string;
  readonly before: string;
  readonly fill: (one: Running) => void;
  readonly empty: (one: Running) => void;
  readonly remove: () => void;
}

/**
 * A folder on a disk of a few megabytes where one can be made, which says that it is full; else files that may not
 * grow, which give an I/O error.
 */
function limitedDisk(): LimitedDisk {
  const data = join(folder, 'small');
  mkdirSync(data);
  const filler = join(data, 'filler');
  try {
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=12m', 'tmpfs', data], { stdio: 'ignore' });
  } catch {
    withDemo('small');
    const most = statSync(join(data, 'estela.sqlite')).size + 200_000;
    const limit = ({ process: { pid } }: Running, size: string): unknown =>
      execFileSync('prlimit', ['--pid', String(pid), `--fsize=${size}:unlimited`]);
    // The signal that comes with the error ends a process that does not ask otherwise.
    return {
      data,
      before: 'trap "" XFSZ',
      fill: (one) => limit(one, String(most)),
      empty: (one) => limit(one, 'unlimited'),
      remove: () => undefined,
    };
  }
  withDemo('small');
  return {
    data,
    before: ':',
    fill() {
      try {
        for (let size = 1024 * 1024; size >= 512;) {
          try {
            writeFileSync(filler, Buffer.alloc(size), { flag: 'a' });
          } catch {
            size /= 2;
          }
        }
      } catch {
        // It is full.
      }
    },
    empty() {
      rmSync(filler, { force: true });
    },
    remove() {
      execFileSync('umount', ['-l', data]);
    },
  };
}

describe('the log', () => {
  it('drops what cannot be written, keeps nobody waiting, and says how much it dropped', async () => {
    const path = join(folder, 'logs', 'estela.log');
    const log = new LogFile(path);
    for (const i of [1, 2, 3]) log.write(`${String(i)}\n`);
    await pause(50);
    mkdirSync(join(folder, 'logs'));
    log.write('4\n');
    await pause(50);
    for (let i = 0; i < 100; i++) log.write(`${'y'.repeat(99_999)}\n`);
    await log.close();
    const [first, second, ...rest] = readFileSync(path, 'utf8').split('\n');
    expect([(JSON.parse(first!) as { msg: string }).msg, second]).toEqual([
      '3 lines of this log could not be written',
      '4',
    ]);
    // What does not fit while the disk is slow is not kept.
    expect(rest.filter((l) => l.startsWith('yyy')).length).toBeLessThanOrEqual(41);
  });
});
