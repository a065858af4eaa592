import { createHash, randomBytes, randomInt } from 'node:crypto';
import { existsSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { afterAll, beforeAll, expect, it } from '@jest/globals';
import { unzipSync } from 'fflate';
import { PNG } from 'pngjs';
import { build, endAll, materials, ready, save, seeded, withDemo, type Material, type Running } from './running.ts';

/** How often a server is killed, and how much work goes on meanwhile, at least; 20 takes some five minutes. */
const KILLS = Number(process.env.ESTELA_KILLS ?? 5);
const [SAVES, UPLOADS, ZIPS] = [50 * KILLS, 10 * KILLS, 2.5 * KILLS];

beforeAll(async () => {
  await build();
  await (await ready(seeded)).end('SIGTERM');
}, 240_000);
afterAll(endAll);

const PICTURE = PNG.sync.write(new PNG({ width: 2, height: 2 }));
const hashOf = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

/** What was told to be done, and what was asked for without an answer. */
class Work {
  /** By the material's id: the text that is known to be stored, and the one that may be. */
  readonly texts = new Map<string, { stored: string; sent: string }>();
  /** Hashes of files by their sources' names. */
  readonly uploaded = new Map<string, string>();
  saves = 0;
  uploads = 0;
  zips = 0;
  #names = 0;

  get isDone(): boolean {
    return this.saves >= SAVES && this.uploads >= UPLOADS && this.zips >= ZIPS;
  }

  /** Works on a server from all sides until it is gone; refuses nothing but its end. */
  async on({ address }: Running, project: string): Promise<void> {
    const server = { address } as Running;
    let zipped = await materials(server);
    await Promise.all([
      ...[...this.texts].map(([id, state]) => this.#save(server, id, state)),
      ...[0, 1, 2].map(() => this.#upload(address, project)),
      ...[0, 1, 2, 3].map(() => this.#zip(address, () => (zipped = [...zipped.slice(1), zipped[0]!])[0]!.id)),
    ]);
  }

  async #save(server: Running, id: string, state: { stored: string; sent: string }): Promise<void> {
    for (;;) {
      const now = await gone(fetch(`${server.address}/materials/${id}`).then((r) => r.json() as Promise<Material>));
      if (!now) return;
      const text = `out color = ${String(randomInt(1e9))} // ${'x'.repeat(randomInt(6000))}\n`;
      state.sent = text;
      const answer = await gone(save(server, id, now.revision, text));
      if (!answer) return;
      expect(answer.status).toBe(200);
      state.stored = text;
      this.saves++;
    }
  }

  async #upload(address: string, project: string): Promise<void> {
    // Enough is enough: every start reads the database through.
    while (this.uploads < 1.2 * UPLOADS) {
      // From a part of a part to some parts.
      const bytes = Buffer.concat([PICTURE, randomBytes(randomInt(2 ** randomInt(8, 23)))]);
      const name = `picture-${String(this.#names++)}.png`;
      const form = new FormData();
      form.set('name', name);
      form.set('file', new Blob([bytes]), name);
      const answer = await gone(fetch(`${address}/projects/${project}/sources`, { method: 'POST', body: form }));
      if (!answer) return;
      expect(answer.status).toBe(201);
      this.uploaded.set(name, hashOf(bytes));
      this.uploads++;
    }
  }

  async #zip(address: string, next: () => string): Promise<void> {
    for (;;) {
      const answer = await gone(
        fetch(`${address}/materials/${next()}/export.zip?leaveOutMissing=true`).then(async (r) => ({
          status: r.status,
          bytes: new Uint8Array(await r.arrayBuffer()),
        })),
      );
      if (!answer) return;
      // What these materials say can be written; what is being saved meanwhile as well.
      expect(answer.status).toBe(200);
      expect(Object.keys(unzipSync(answer.bytes)).length).toBeGreaterThan(3);
      this.zips++;
    }
  }

  /** Holds what is there after an end against what was told. */
  async isKept(server: Running, project: string): Promise<void> {
    const { address } = server;
    const now = new Map((await materials(server)).map((m) => [m.id, m]));
    for (const [id, state] of this.texts) {
      const { text, revision } = now.get(id)!;
      expect([state.stored, state.sent]).toContain(text);
      const kept: unknown = await (await fetch(`${address}/materials/${id}/revisions/${String(revision)}`)).json();
      expect(kept).toMatchObject({ text });
      state.stored = text;
    }
    const sources = (await (await fetch(`${address}/projects/${project}/sources`)).json()) as {
      id: string;
      name: string;
      hash: string;
      size: number;
    }[];
    const hashes = new Map(sources.map((s) => [s.name, s.hash]));
    for (const [name, hash] of this.uploaded) expect([name, hashes.get(name)]).toEqual([name, hash]);
    // Of the newest, told or not, every byte.
    for (const { id, hash, size } of sources.filter((s) => s.name.startsWith('picture-')).slice(-12)) {
      const bytes = new Uint8Array(await (await fetch(`${address}/sources/${id}/content`)).arrayBuffer());
      expect([bytes.length, hashOf(bytes)]).toEqual([size, hash]);
    }
  }
}

/** Undefined where the server ended before it answered. */
const gone = <T>(asked: Promise<T>): Promise<T | undefined> =>
  asked.catch((error: unknown) => {
    // Of another realm than this one.
    if (['TypeError', 'AbortError'].includes((error as Error).name)) return undefined;
    throw error;
  });

async function begun(data: string): Promise<{ work: Work; project: string }> {
  const one = await ready(data);
  const [{ id: project } = { id: '' }] = (await (await fetch(`${one.address}/projects`)).json()) as { id: string }[];
  const work = new Work();
  for (let i = 0; i < 8; i++) {
    const made = await fetch(`${one.address}/projects/${project}/materials`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ text: 'out color = 0\n' }),
    });
    work.texts.set(((await made.json()) as Material).id, { stored: 'out color = 0\n', sent: 'out color = 0\n' });
  }
  await one.end('SIGTERM');
  return { work, project };
}

it('a server that is killed at any moment has lost nothing that it said it has, and torn nothing', async () => {
  const data = withDemo('killed');
  const { work, project } = await begun(data);
  let kills = 0;
  for (; kills < KILLS || !work.isDone; kills++) {
    const one = await ready(data);
    // Nothing is left of what was being sent.
    expect(existsSync(join(data, 'uploads')) ? readdirSync(join(data, 'uploads')) : []).toEqual([]);
    await work.isKept(one, project);
    const working = work.on(one, project);
    await pause(randomInt(200, 9000));
    await one.end('SIGKILL');
    await working;
  }
  const after = await ready(data);
  await work.isKept(after, project);
  expect(await after.end('SIGTERM')).toBe(0);
  console.log(
    `Killed ${String(kills)} times during ${String(work.saves)} saves, ${String(work.uploads)} uploads and ${String(work.zips)} packages: nothing lost, nothing torn.`,
  );
}, 900_000);

it('a server that is told to end during all of this ends soon, and has lost nothing', async () => {
  const data = withDemo('ended');
  const { work, project } = await begun(data);
  let slowest = 0;
  for (let i = 0; i < KILLS / 2; i++) {
    const one = await ready(data);
    await work.isKept(one, project);
    const working = work.on(one, project);
    await pause(randomInt(300, 1800));
    const start = Date.now();
    expect(await one.end('SIGTERM')).toBe(0);
    slowest = Math.max(slowest, Date.now() - start);
    await working;
  }
  const after = await ready(data);
  await work.isKept(after, project);
  await after.end('SIGTERM');
  // On a machine that has other things to do: how long it takes by itself stands in docs/server.md.
  expect(slowest).toBeLessThan(30_000);
  console.log(`Told to end again and again; the slowest took ${String(slowest)} ms.`);
}, 300_000);
