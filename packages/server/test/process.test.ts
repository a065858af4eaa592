import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { glbOf } from '@estela/codecs/mesh';
import { shapeMesh } from '@estela/core';
import { LogFile } from '../src/log-file.ts';
import {
  build,
  endAll,
  folder,
  materials,
  ready,
  ROOT,
  save,
  seeded,
  start,
  until,
  withDemo,
  type Material,
  type Running,
} from './running.ts';

beforeAll(build, 240_000);
afterAll(endAll);

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

  it('that is told to end lets what is under way end first, and has what it said it has', async () => {
    const data = withDemo('draining');
    const one = await ready(data);
    const [material] = await materials(one);
    const saved: string[] = [];
    let ending = false;
    // Twelve writers, each over its own material, until the server takes no more.
    const [project] = (await (await fetch(`${one.address}/projects`)).json()) as { id: string }[];
    const writers = Array.from({ length: 12 }, async (_, w) => {
      const made = await fetch(`${one.address}/projects/${project!.id}/materials`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ text: material!.text }),
      });
      const { id } = (await made.json()) as Material;
      for (let revision = 1; ; revision++) {
        const text = `out color = ${String(w)}.${String(revision)}\n`;
        const answer = await save(one, id, revision, text).catch(() => undefined);
        if (answer?.status !== 200) {
          expect(ending).toBe(true);
          return { id, text: saved[w] ?? material!.text, next: text };
        }
        saved[w] = text;
      }
    });
    await pause(1500);
    ending = true;
    const began = Date.now();
    expect(await one.end('SIGTERM')).toBe(0);
    expect(Date.now() - began).toBeLessThan(10_000);
    const left = await Promise.all(writers);
    const after = await ready(data);
    const now = new Map((await materials(after)).map((m) => [m.id, m.text]));
    // What was acknowledged is there; what was cut off may have been stored, whole.
    for (const { id, text, next } of left) expect([text, next]).toContain(now.get(id));
    await after.end('SIGTERM');
  }, 240_000);

  it('that ended badly looks into its database first, and leaves a damaged one alone', async () => {
    const data = withDemo('damaged');
    await (await ready(data)).end('SIGKILL');
    const whole = await ready(data);
    expect(await materials(whole)).not.toHaveLength(0);
    await whole.end('SIGKILL');
    const file = join(data, 'estela.sqlite');
    rmSync(`${file}-wal`, { force: true });
    rmSync(`${file}-shm`, { force: true });
    const bytes = readFileSync(file);
    bytes.fill(7, 20_000, 200_000);
    writeFileSync(file, bytes);
    const broken = await start(data);
    await until(() => broken.process.exitCode !== null);
    expect([broken.process.exitCode, broken.said()]).toEqual([
      1,
      expect.stringMatching(/^The database in .*damaged is damaged: .*Nothing was changed\. Restore a backup/),
    ]);
    expect(readFileSync(file).equals(bytes)).toBe(true);
  }, 240_000);

  it('goes on reading where its disk is full, says that nothing is saved, and saves once there is room', async () => {
    const disk = limitedDisk();
    try {
      const one = await ready(disk.data, { before: disk.before });
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
        detail: expect.stringContaining('Not saved: the disk'),
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
      '3 lines could not be written to this log',
      '4',
    ]);
    // What does not fit while the disk is slow is not kept.
    expect(rest.filter((l) => l.startsWith('yyy')).length).toBeLessThanOrEqual(41);
  });
});
