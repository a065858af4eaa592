import { randomInt } from 'node:crypto';
import { join } from 'node:path';
import { constants, deflateRawSync } from 'node:zlib';
import { setTimeout as pause } from 'node:timers/promises';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import type { Bake } from '@estela/contract';
import { bakePlan, bandMaker, check, parse, type BakeRecipe, type DeflateBand } from '@estela/core';
import { unzipSync } from 'fflate';
import { PNG } from 'pngjs';
import request from 'supertest';
import { openDatabase } from '../src/storage/database.ts';
import { bakedByCli, bakedHere, bandRows, fileOfBands, sha256, SHEET, TEXT } from './baking.ts';
import { build, endAll, folder, ready } from './running.ts';
import { newFile, serve, type Served } from './support.ts';

interface Ids {
  readonly project: string;
  readonly material: string;
}

describe('bakes', () => {
  let served: Served;
  beforeAll(async () => {
    served = await serve();
  });
  afterAll(() => served.close());

  const http = () => request(served.app.getHttpServer());
  async function begun(text = TEXT): Promise<Ids> {
    const { id: project } = (await http().post('/api/projects').send({ name: 'Bakes' })).body as { id: string };
    const made = await http().post(`/api/projects/${project}/materials`).send({ text });
    return { project, material: (made.body as { id: string }).id };
  }
  async function asked({ material }: Ids, recipe: object): Promise<Bake> {
    const answer = await http().post(`/api/materials/${material}/bakes`).send(recipe);
    expect([answer.status, answer.body]).toEqual([202, answer.body]);
    expect(answer.headers.location).toBe(`/api/bakes/${(answer.body as Bake).id}`);
    return answer.body as Bake;
  }
  const read = async (id: string): Promise<Bake> => (await http().get(`/api/bakes/${id}`)).body as Bake;
  async function over(id: string): Promise<Bake> {
    for (;;) {
      const bake = await read(id);
      if (!['queued', 'running'].includes(bake.state)) return bake;
      await pause(30);
    }
  }
  const fileOf = async (id: string): Promise<Buffer> =>
    (await http().get(`/api/bakes/${id}/file`).buffer().responseType('blob')).body as Buffer;

  it('give what is baked here, whatever the format, with one thread and with three', async () => {
    const recipes: readonly BakeRecipe[] = [
      SHEET,
      { format: 'sequence', size: [40, 40], frames: [2, 9], every: 3, outputs: ['color', 'roughness'] },
      { format: 'apng', size: [300, 300], frames: 'all', every: 8 },
      {
        format: 'sheet',
        size: [64, 64],
        frames: { count: 5 },
        pack: 'r=roughness a=opacity',
        bits: 16,
        powerOfTwo: true,
      },
    ];
    const three = await serve(newFile(), { jobs: 3 });
    const one = await serve(newFile(), { jobs: 1 });
    const own = served;
    try {
      for (served of [three, one]) {
        const ids = await begun();
        const all = await Promise.all(recipes.map((recipe) => asked(ids, recipe)));
        for (const [i, { id }] of all.entries()) {
          const bake = await over(id);
          const here = await bakedHere(TEXT, recipes[i]!);
          const hash = sha256(here);
          expect(bake).toMatchObject({
            state: 'done',
            done: bake.total,
            problem: null,
            file: { hash, size: here.length },
          });
          expect(Buffer.compare(await fileOf(id), here)).toBe(0);
        }
        // What was computed on the way is not kept twice.
        expect(await served.database.bands.count()).toBe(0);
      }
    } finally {
      served = own;
      await one.close();
      await three.close();
    }
  }, 120_000);

  it('show what was saved when they were asked for, and can be asked for in ranges', async () => {
    const ids = await begun();
    const { id, revision } = await asked(ids, SHEET);
    const saved = await http()
      .put(`/api/materials/${ids.material}`)
      .set('If-Match', '"1"')
      .send({ text: TEXT.replace('fbm(4', 'fbm(9') });
    expect(saved.status).toBe(200);
    const { file, state } = await over(id);
    const here = await bakedHere(TEXT, SHEET);
    expect([state, revision, file?.name, file?.size]).toEqual(['done', 1, 'drifting-haze.png', here.length]);
    const part = await http().get(`/api/bakes/${id}/file`).set('Range', 'bytes=100-199').buffer().responseType('blob');
    expect([part.status, Buffer.compare(part.body as Buffer, here.subarray(100, 200))]).toEqual([206, 0]);
    const picture = await http().get(`/api/bakes/${id}/picture`);
    expect(PNG.sync.read(picture.body as Buffer)).toMatchObject({ width: 96, height: 64 });
    const manifest = await http().get(`/api/bakes/${id}/manifest.json`);
    expect(manifest.body).toMatchObject({ columns: 4, rows: 3, rate: 6, closes: true, bleed: 2 });
    // Without its material it stays.
    await http().delete(`/api/materials/${ids.material}`).set('If-Match', '"2"');
    expect((await http().get(`/api/bakes/${id}/file`)).status).toBe(200);
    expect((await http().delete(`/api/bakes/${id}`)).status).toBe(204);
    expect((await http().get(`/api/bakes/${id}`)).status).toBe(404);
    expect(await served.database.bakes.count({ where: { id } })).toBe(0);
    expect(await served.database.blobs.count({ where: { hash: file!.hash } })).toBe(0);
  });

  it('are cancelled within a second, and gone on with from where they were', async () => {
    const ids = await begun();
    const recipe: BakeRecipe = { format: 'sequence', size: [256, 256], frames: { count: 60 }, samples: 3 };
    const { id } = await asked(ids, recipe);
    while ((await read(id)).done < 2) await pause(20);
    const start = Date.now();
    expect((await http().delete(`/api/bakes/${id}`)).status).toBe(204);
    expect(Date.now() - start).toBeLessThan(1000);
    const stopped = await read(id);
    expect([stopped.state, stopped.done < 60, stopped.file]).toEqual(['cancelled', true, null]);
    expect((await http().get(`/api/bakes/${id}/file`)).status).toBe(409);
    await pause(300);
    expect((await read(id)).done).toBe(stopped.done);
    const kept = await served.database.bands.findAll({
      where: { bakeId: id },
      attributes: ['number', ['rowid', 'row']],
    });
    expect((await http().post(`/api/bakes/${id}/retry`)).status).toBe(202);
    expect((await http().post(`/api/bakes/${id}/retry`)).status).toBe(202);
    expect(kept.length).toBeGreaterThan(0);
    expect((await read(id)).done).toBeGreaterThanOrEqual(stopped.done);
    // Little of it, so that this ends: the rest is as in the first test.
    expect((await http().delete(`/api/bakes/${id}`)).status).toBe(204);
    const rows = await served.database.bands.findAll({
      where: { bakeId: id },
      attributes: ['number', ['rowid', 'row']],
    });
    for (const row of kept) expect(rows.find((r) => r.number === row.number)?.get('row')).toBe(row.get('row'));
  }, 60_000);

  it('that another Estela cut otherwise begin anew, and those of a deleted project end', async () => {
    const ids = await begun();
    const { id } = await asked(ids, SHEET);
    await http().delete(`/api/bakes/${id}`);
    const { bands, bakes } = served.database;
    await bands.destroy({ where: { bakeId: id } });
    await bands.create({ bakeId: id, number: 0, adler: 1, length: 7, bytes: Buffer.from('nonsense') });
    await bakes.update({ state: 'cancelled', done: 5, size: 8, hash: null }, { where: { id } });
    await http().post(`/api/bakes/${id}/retry`);
    expect(await over(id)).toMatchObject({ state: 'done', done: 12 });
    expect(Buffer.compare(await fileOf(id), await bakedHere(TEXT, SHEET))).toBe(0);

    const other = await begun();
    const large = await asked(other, { format: 'sequence', size: [512, 512], frames: { count: 32 }, samples: 4 });
    while ((await read(large.id)).state !== 'running') await pause(20);
    await http().delete(`/api/projects/${other.project}`).set('If-Match', '"1"');
    expect((await http().get(`/api/bakes/${large.id}`)).status).toBe(404);
    expect(await bands.count({ where: { bakeId: large.id } })).toBe(0);
    // What comes after it is not held up.
    expect(await over((await asked(ids, SHEET)).id)).toMatchObject({ state: 'done' });
  }, 60_000);

  it('that cannot be are refused where they are asked for, in a sentence', async () => {
    const ids = await begun();
    const why = async (recipe: object, of = ids): Promise<string> => {
      const answer = await http().post(`/api/materials/${of.material}/bakes`).send(recipe);
      return `${String(answer.status)} ${(answer.body as { detail: string }).detail}`;
    };
    const one = { format: 'sheet', size: [64, 64], frames: 'all' };
    expect(await why({ ...one, outputs: ['normal'] })).toMatch(
      /^422 .* has no output normal; its outputs are: color, roughness, opacity/,
    );
    expect(await why({ ...one, pack: 'r=colour' })).toMatch(/^422 .*'colour' is not an output/);
    expect(await why({ ...one, frames: [3, 40] })).toMatch(/^422 .*frames 0 to 31/);
    expect(await why({ ...one, size: [8192, 8192] })).toMatch(/^422 .*This sheet is 65536 x 32768 pixels/);
    expect(await why({ ...one, format: 'sequence', size: [8192, 8192], samples: 8 })).toMatch(
      /^422 .*times the pixel limit/,
    );
    expect(await why({ ...one, format: 'webm' })).toMatch(/^400 /);
    expect(await why({ ...one, values: { nothing: '1' } })).toMatch(/^422 .*no dial or switch named 'nothing'/);
    const wrong = await begun('out color = nonsense\n');
    expect(await why(one, wrong)).toMatch(/^422 .*has errors/);
    const lacks = await begun('image a = "absent.png"\nout color = uv |> sample(a)\n');
    expect(await why(one, lacks)).toMatch(/^422 .*not in the project: absent\.png/);
  });

  it('that fail say why, and others go on', async () => {
    const ids = await begun('image a = "a.png"\nout color = uv |> sample(a)\n');
    const png = PNG.sync.write(new PNG({ width: 4, height: 4 }));
    await http().post(`/api/projects/${ids.project}/sources`).field('name', 'a.png').attach('file', png, 'a.png');
    const parts = served.database.parts;
    const hash = sha256(png);
    const whole = (await parts.findOne({ where: { hash } }))!.bytes;
    await parts.update(
      { bytes: Buffer.concat([whole.subarray(0, 40), Buffer.alloc(whole.length - 40)]) },
      { where: { hash } },
    );
    const broken = await asked(ids, SHEET);
    const other = await asked(await begun(), SHEET);
    expect(await over(broken.id)).toMatchObject({
      state: 'failed',
      problem: expect.stringMatching(/^"a\.png" /) as unknown,
    });
    expect(await over(other.id)).toMatchObject({ state: 'done' });
    await parts.update({ bytes: whole }, { where: { hash } });
    await http().post(`/api/bakes/${broken.id}/retry`);
    expect(await over(broken.id)).toMatchObject({ state: 'done', problem: null });
    // Its image stays for as long as the bake does, whatever becomes of the source.
    const [source] = (await http().get(`/api/projects/${ids.project}/sources`)).body as { id: string }[];
    await http().delete(`/api/sources/${source!.id}`).set('If-Match', '"1"');
    const unused = async (): Promise<unknown> =>
      (await served.database.sequelize.query(`SELECT unusedSince FROM blobs WHERE hash = '${hash}'`))[0];
    expect(await unused()).toEqual([{ unusedSince: null }]);
    await http().delete(`/api/bakes/${broken.id}`);
    expect(await unused()).toEqual([{ unusedSince: expect.any(String) as unknown }]);
  });
});

/** As bands are compressed, but at another level. */
const coarseBand: DeflateBand = (bytes, last) =>
  new Uint8Array(deflateRawSync(bytes, { level: 1, finishFlush: last ? constants.Z_FINISH : constants.Z_SYNC_FLUSH }));

describe('a server that is killed', () => {
  beforeAll(() => build('cli'), 240_000);
  afterAll(endAll);

  it('goes on with its bakes, and computes nothing twice that was kept', async () => {
    const data = join(folder, 'baking');
    const recipe: BakeRecipe = { format: 'sequence', size: [192, 192], frames: { count: 40 }, samples: 2 };
    const post = async (address: string, path: string, body: object): Promise<{ id: string }> =>
      (await (
        await fetch(`${address}${path}`, {
          method: 'POST',
          headers: { 'content-type': 'application/json' },
          body: JSON.stringify(body),
        })
      ).json()) as { id: string };
    let one = await ready(data);
    const project = await post(one.address, '/projects', { name: 'Killed' });
    const material = await post(one.address, `/projects/${project.id}/materials`, { text: TEXT });
    const { id } = await post(one.address, `/materials/${material.id}/bakes`, recipe);
    const stateOf = async (): Promise<Bake> => (await (await fetch(`${one.address}/bakes/${id}`)).json()) as Bake;
    let before = new Map<number, number>();
    for (let kills = 0; kills < 4; kills++) {
      let { done, state } = await stateOf();
      for (const start = done; done <= start && state !== 'done'; { done, state } = await stateOf()) await pause(20);
      // In the middle of chunks.
      await pause(randomInt(200));
      await one.end('SIGKILL');
      const now = await bandRows(data, id);
      for (const [number, row] of before) expect([number, now.get(number)]).toEqual([number, row]);
      before = now;
      one = await ready(data);
    }
    expect(before.size).toBeGreaterThan(0);
    while ((await stateOf()).state !== 'done') await pause(50);
    const bytes = Buffer.from(await (await fetch(`${one.address}/bakes/${id}/file`)).arrayBuffer());
    expect(sha256(bytes)).toBe(bakedByCli('--format sequence --size 192x192 --count 40 --samples 2', 'killed.zip'));
    expect(Object.keys(unzipSync(bytes))).toHaveLength(41);

    // Killed while the file was made of its bands: all of them are kept, and the first parts of the file.
    const plain: BakeRecipe = { ...recipe, samples: 1, frames: { count: 24 } };
    const again = await post(one.address, `/materials/${material.id}/bakes`, plain);
    await one.end('SIGKILL');
    // Compressed otherwise than a server does it: none of them may be made anew.
    const program = check(parse(TEXT));
    const plan = bakePlan(program, plain);
    const own = bandMaker(program, plan, () => undefined, coarseBand);
    const bands = [...plan.bands.keys()].map((number) => own(number));
    const expected = await fileOfBands(plan, bands);
    const hash = sha256(expected);
    expect(expected.length).toBeGreaterThan(1024 * 1024);
    const database = await openDatabase(join(data, 'estela.sqlite'));
    await database.bands.destroy({ where: { bakeId: again.id } });
    for (const [number, { adler, length, bytes: packed }] of bands.entries())
      await database.bands.create({ bakeId: again.id, number, adler, length, bytes: Buffer.from(packed) });
    await database.bakes.update({ state: 'running', done: 24 }, { where: { id: again.id } });
    await database.blobs.create({ hash, size: expected.length });
    await database.parts.create({ hash, number: 0, bytes: expected.subarray(0, 1024 * 1024) });
    await database.close();
    one = await ready(data);
    const { address } = one;
    const last = async (): Promise<Bake> => (await (await fetch(`${address}/bakes/${again.id}`)).json()) as Bake;
    while ((await last()).state === 'running') await pause(50);
    expect(await last()).toMatchObject({ state: 'done', file: { hash, size: expected.length } });
    const second = Buffer.from(await (await fetch(`${address}/bakes/${again.id}/file`)).arrayBuffer());
    expect(Buffer.compare(second, expected)).toBe(0);
    await one.end('SIGTERM');
  }, 180_000);

  it('gives the same bytes as the command line', async () => {
    const here = sha256(await bakedHere(TEXT, SHEET));
    const how = '--format sheet --size 96x64 --count 12 --columns 4 --bleed 2 --samples 2';
    for (const jobs of ['1', '2']) expect(bakedByCli(`${how} --jobs ${jobs}`, 'haze.png')).toBe(here);
  }, 240_000);
});
