import { availableParallelism } from 'node:os';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { PNG } from 'pngjs';
import request from 'supertest';
import type { Project } from '@estela/contract';
import { readOptions } from '../src/options.ts';
import { newFile, serve, type Served } from './support.ts';

const file = newFile();
let { app, close } = {} as Served;

async function open(): Promise<void> {
  ({ app, close } = await serve(file));
}
const api = () => request(app.getHttpServer());

beforeAll(open);
afterAll(() => close());

interface Saved {
  id: string;
  revision: number;
  version: number;
  title: string;
  text: string;
}
const newProject = async (name = 'Test'): Promise<Saved> =>
  (await api().post('/api/projects').send({ name }).expect(201)).body as Saved;
const newMaterial = async (text: string): Promise<Saved> =>
  (
    await api()
      .post(`/api/projects/${(await newProject()).id}/materials`)
      .send({ text })
      .expect(201)
  ).body as Saved;

describe('projects', () => {
  it('are made, listed, renamed and deleted, guarded by their version', async () => {
    const made = await api().post('/api/projects').send({ name: '  Lamps  ', notes: 'n' }).expect(201);
    const project = made.body as Saved;
    expect(made.headers.etag).toBe('"1"');
    expect(project).toMatchObject({ name: 'Lamps', notes: 'n', materials: 0 });
    expect((await api().get('/api/projects').expect(200)).body).toContainEqual(project);
    const path = `/api/projects/${project.id}`;
    await api().patch(path).set('If-Match', '"1"').send({ name: 'Lights' }).expect(200).expect('ETag', '"2"');
    await api().patch(path).set('If-Match', '"1"').send({ name: 'Late' }).expect(412);
    await api().delete(path).expect(428);
    await api().delete(path).set('If-Match', '"2"').expect(204);
    await api().get(path).expect(404);
  });

  it.each([
    [{}, 'name'],
    [{ name: '' }, 'name'],
    [{ name: 'x'.repeat(121) }, 'name'],
    [{ name: 'a', owner: 'b' }, 'owner'],
  ])('refuse %j with problem details', async (body, word) => {
    const problem: unknown = (
      await api()
        .post('/api/projects')
        .send(body)
        .expect(400)
        .expect('Content-Type', /application\/problem\+json/)
    ).body;
    expect(problem).toMatchObject({
      type: '/problems/invalid',
      status: 400,
      detail: expect.stringContaining(word),
      instance: '/api/projects',
    });
  });
});

describe('materials', () => {
  it('take their title from the text, and keep every revision', async () => {
    const { id } = await newMaterial('material "Mist"\nout color = 1');
    const path = `/api/materials/${id}`;
    const saved = await api()
      .put(path)
      .set('If-Match', '"1"')
      .send({ text: 'material "Fog"\nout color = 2' })
      .expect(200)
      .expect('ETag', '"2"');
    expect(saved.body).toMatchObject({ title: 'Fog', revision: 2 });
    // The same text again is no new revision.
    await api()
      .put(path)
      .set('If-Match', '"2"')
      .send({ text: 'material "Fog"\nout color = 2' })
      .expect(200)
      .expect('ETag', '"2"');
    expect((await api().get(`${path}/revisions`)).body).toMatchObject([{ number: 2 }, { number: 1 }]);
    expect((await api().get(`${path}/revisions/1`)).body).toMatchObject({
      number: 1,
      text: 'material "Mist"\nout color = 1',
    });
    await api().get(`${path}/revisions/9`).expect(404);
  });

  it('are deleted, and had back with their revisions', async () => {
    const { id } = await newMaterial('out color = 1');
    const path = `/api/materials/${id}`;
    await api().put(path).set('If-Match', '"1"').send({ text: 'out color = 2' }).expect(200);
    await api().delete(path).set('If-Match', '"2"').expect(204);
    await api().get(path).expect(404);
    await api().put(path).set('If-Match', '"2"').send({ text: 'late' }).expect(404);
    expect((await api().post(`${path}/restore`).expect(200)).body).toMatchObject({
      text: 'out color = 2',
      revision: 2,
    });
    expect((await api().get(`${path}/revisions`)).body).toHaveLength(2);
    await api().post('/api/materials/00000000-0000-4000-8000-000000000000/restore').expect(404);
  });

  it('keep the names of their revisions', async () => {
    const { id } = await newMaterial('out color = 1');
    const path = `/api/materials/${id}/revisions`;
    await api().patch(`${path}/1`).send({ name: 'first light' }).expect(200);
    expect((await api().get(path)).body).toMatchObject([{ number: 1, name: 'first light' }]);
    await api().patch(`${path}/2`).send({ name: 'none' }).expect(404);
    await api()
      .patch(`${path}/1`)
      .send({ name: 'x'.repeat(121) })
      .expect(400);
  });

  it('refuse a stale save and lose nothing', async () => {
    const { id } = await newMaterial('out color = 1');
    await api().put(`/api/materials/${id}`).set('If-Match', '"1"').send({ text: 'mine' }).expect(200);
    const body: unknown = (
      await api().put(`/api/materials/${id}`).set('If-Match', '"1"').send({ text: 'theirs' }).expect(412)
    ).body;
    expect(body).toMatchObject({ type: '/problems/stale', current: 2 });
    expect((await api().get(`/api/materials/${id}`)).body).toMatchObject({ text: 'mine', revision: 2 });
    await api().put(`/api/materials/${id}`).send({ text: 'no guard' }).expect(428);
  });

  it('let one of many saves at once win', async () => {
    const { id } = await newMaterial('start');
    const answers = await Promise.all(
      Array.from({ length: 24 }, (_, i) =>
        api()
          .put(`/api/materials/${id}`)
          .set('If-Match', '"1"')
          .send({ text: `text ${String(i)}` }),
      ),
    );
    expect(answers.filter((a) => a.status === 200)).toHaveLength(1);
    expect(answers.filter((a) => a.status === 412)).toHaveLength(23);
  });

  it.each([
    ['not-an-id', 400],
    ['00000000-0000-4000-8000-000000000000', 404],
  ])('answer %s with %i', async (id, status) => {
    await api()
      .get(`/api/materials/${id}`)
      .expect(status)
      .expect('Content-Type', /problem/);
  });

  it('survive a restart, and go with their project', async () => {
    const project = await newProject('Kept');
    const { id } = (await api().post(`/api/projects/${project.id}/materials`).send({ text: 'kept' })).body as Saved;
    await close();
    await open();
    expect((await api().get(`/api/materials/${id}`).expect(200)).body).toMatchObject({ text: 'kept' });
    await api().delete(`/api/projects/${project.id}`).set('If-Match', '"1"').expect(204);
    await api().get(`/api/materials/${id}`).expect(404);
  });
});

interface SavedSource extends Saved {
  name: string;
  hash: string;
  recipe: unknown;
}
describe('sources', () => {
  const image = (width: number, height: number): Buffer => PNG.sync.write(new PNG({ width, height }));
  const put = (project: string, name: string, bytes?: Buffer, fields: Record<string, string> = {}) => {
    const sent = api().post(`/api/projects/${project}/sources`).field('name', name);
    for (const [key, value] of Object.entries(fields)) void sent.field(key, value);
    return bytes ? sent.attach('file', bytes, name) : sent;
  };

  it('are stored once by content, and served as they came', async () => {
    const { id } = await newProject();
    const bytes = image(3, 2);
    const source = (await put(id, 'a.png', bytes).expect(201)).body as SavedSource;
    expect(source).toMatchObject({
      name: 'a.png',
      width: 3,
      height: 2,
      mime: 'image/png',
      bits: 8,
      size: bytes.length,
      recipe: null,
      version: 1,
    });
    expect(((await put(id, 'b.png', bytes).expect(201)).body as SavedSource).hash).toBe(source.hash);
    await put(id, 'a.png', bytes).expect(409);
    expect((await api().get(`/api/projects/${id}/sources`)).body).toHaveLength(2);
    const content = await api()
      .get(`/api/sources/${source.id}/content`)
      .expect(200)
      .expect('Content-Type', 'image/png');
    expect(Buffer.compare(content.body as Buffer, bytes)).toBe(0);
    const path = `/api/sources/${source.id}/content`;
    await api().get(path).set('If-None-Match', content.headers.etag!).expect(304);
    // By its hash it is kept for ever; parts of it can be asked for, and a HEAD tells of it without reading it.
    expect(content.headers['cache-control']).toMatch(/^no-cache/);
    await api()
      .get(`${path}?v=${source.hash.slice(0, 16)}`)
      .expect('Cache-Control', /immutable/);
    await api()
      .get(`${path}?v=0123456789`)
      .expect('Cache-Control', /^no-cache/);
    const part = await api().get(path).set('Range', 'bytes=2-5').responseType('blob').expect(206);
    expect(part.headers['content-range']).toBe(`bytes 2-5/${String(bytes.length)}`);
    expect((part.body as Buffer).equals(bytes.subarray(2, 6))).toBe(true);
    const tail = await api().get(path).set('Range', 'bytes=-3').responseType('blob').expect(206);
    expect((tail.body as Buffer).equals(bytes.subarray(-3))).toBe(true);
    await api().get(path).set('Range', 'bytes=999999-').expect(416);
    await api().get(path).set('Range', 'bytes=0-1').set('If-Range', '"other"').expect(200);
    await api().head(path).expect(200).expect('Content-Length', String(bytes.length));
  });

  it('are replaced, renamed, deleted and brought back by their hash, guarded by their version', async () => {
    const { id } = await newProject();
    const first = (await put(id, 'a.png', image(3, 2)).expect(201)).body as SavedSource;
    const path = `/api/sources/${first.id}`;
    await api().put(path).attach('file', image(5, 5), 'a.png').expect(428);
    const second = (
      await api()
        .put(path)
        .set('If-Match', '"1"')
        .attach('file', image(5, 5), 'a.png')
        .expect(200)
        .expect('ETag', '"2"')
    ).body as SavedSource;
    expect(second).toMatchObject({ id: first.id, width: 5, name: 'a.png' });
    await api().put(path).set('If-Match', '"1"').field('name', 'b.png').expect(412);
    expect(
      (await api().put(path).set('If-Match', '"2"').field('hash', first.hash).field('name', 'b.png').expect(200)).body,
    ).toMatchObject({
      width: 3,
      name: 'b.png',
      hash: first.hash,
    });
    await api().put(path).set('If-Match', '"3"').field('hash', 'f'.repeat(64)).expect(404);
    await api().delete(path).set('If-Match', '"1"').expect(412);
    await api().delete(path).set('If-Match', '"3"').expect(204);
    expect((await put(id, 'b.png', undefined, { hash: second.hash }).expect(201)).body).toMatchObject({ width: 5 });
    await put(id, 'c.png').expect(400);
  });

  it('keep what they were made by, and refuse what is no recipe', async () => {
    const { id } = await newProject();
    const recipe = { kind: 'path', drawing: { points: [{ x: 0.2, y: 0.3, width: 0.1 }], closed: false, size: 256 } };
    const source = (await put(id, 'way.png', image(4, 4), { recipe: JSON.stringify(recipe) }).expect(201))
      .body as SavedSource;
    expect(source.recipe).toEqual(recipe);
    expect((await api().get(`/api/sources/${source.id}`)).body).toEqual(source);
    for (const bad of [
      '{"kind":"path"}',
      '{"kind":"spell"}',
      'no json',
      JSON.stringify({ ...recipe, more: 1 }),
      '{"kind":"flow","drawing":{"strokes":"x"}}',
    ])
      await put(id, 'bad.png', image(4, 4), { recipe: bad })
        .expect(400)
        .expect('Content-Type', /problem/);
    expect(
      (await api().put(`/api/sources/${source.id}`).set('If-Match', '"1"').field('recipe', 'null').expect(200)).body,
    ).toMatchObject({ recipe: null });
  });

  it('refuse what is no image, broken or beyond a limit, and say which', async () => {
    const { id } = await newProject();
    const huge = image(3, 2);
    huge.writeUInt32BE(30000, 16);
    huge.writeUInt32BE(30000, 20);
    expect((await put(id, 'huge.png', huge).expect(413)).body).toMatchObject({
      detail: expect.stringContaining('"huge.png" is 30000 x 30000 pixels'),
    });
    expect((await put(id, 'text.png', Buffer.from('GIF')).expect(415)).body).toMatchObject({
      detail: expect.stringContaining('"text.png" is not an image'),
    });
    await put(id, 'half.png', image(3, 2).subarray(0, 20)).expect(422);
    expect((await put(id, 'long.png', Buffer.alloc(64 * 1024 * 1024 + 1)).expect(413)).body).toMatchObject({
      detail: expect.stringContaining('64 MB'),
    });
    await put(id, 'quoted".png', image(1, 1)).expect(400);
    expect((await api().get(`/api/projects/${id}/sources`)).body).toEqual([]);
  });
});

describe('the server', () => {
  it('refuses foreign hosts and pages of other origins', async () => {
    const refused = await api().get('/api/projects?secret=1').set('Host', 'evil.example').expect(403);
    expect(refused.body).toMatchObject({ type: '/problems/forbidden', instance: '/api/projects' });
    expect(refused.headers['x-request-id']).toMatch(/^[0-9a-f-]{36}$/);
    await api().get('/api/projects').set('Origin', 'http://evil.example').expect(403);
    await api()
      .get('/api/projects')
      .expect('Content-Security-Policy', /default-src 'self'/)
      .expect(200);
  });

  it('answers what it cannot read with problem details', async () => {
    await api()
      .post('/api/projects')
      .set('Content-Type', 'application/json')
      .send('{"name":')
      .expect(400)
      .expect('Content-Type', /problem/);
    await api()
      .post('/api/projects')
      .send({ name: 'x', notes: 'y'.repeat(3_000_000) })
      .expect(413)
      .expect('Content-Type', /problem/);
    await api()
      .get('/api/nothing')
      .expect(404)
      .expect('Content-Type', /problem/);
  });

  it('reads its options, and says which are wrong', () => {
    expect(readOptions(['--port', '5000'], { ESTELA_PORT: '1', ESTELA_DATA: '/d' })).toMatchObject({
      port: 5000,
      data: '/d',
      host: '127.0.0.1',
    });
    expect(() => readOptions(['--port', 'x'], {})).toThrow("not 'x'");
    expect(() => readOptions(['--prot', '1'], {})).toThrow('--prot');
  });
});

describe('lists', () => {
  it('come in pages that neither double nor hide anything, whatever is made and deleted between them', async () => {
    const project = await newProject('Pages');
    const path = `/api/projects/${project.id}/materials`;
    const make = async (title: string): Promise<Saved> =>
      (
        await api()
          .post(path)
          .send({ text: `material "${title}"` })
          .expect(201)
      ).body as Saved;
    const made: Saved[] = [];
    for (let i = 0; i < 7; i++) made.push(await make(`M${String(i)}`));
    const seen: string[] = [];
    let next: string | undefined = `${path}?limit=3`;
    for (let page = 0; next !== undefined; page++) {
      const { body, headers } = (await api().get(next).expect(200)) as { body: Saved[]; headers: { link?: string } };
      seen.push(...body.map((m) => m.title));
      next = /^<(\S+)>; rel="next"$/.exec(headers.link ?? '')?.[1];
      if (page === 0) {
        await api().delete(`/api/materials/${made[2]!.id}`).set('If-Match', '*').expect(204);
        await api().delete(`/api/materials/${made[4]!.id}`).set('If-Match', '*').expect(204);
        await make('M7');
      }
    }
    expect(seen).toEqual(['M0', 'M1', 'M2', 'M3', 'M5', 'M6', 'M7']);
    const since = new Date(Date.now() + 1).toISOString();
    await new Promise((done) => setTimeout(done, 5));
    await api()
      .put(`/api/materials/${made[5]!.id}`)
      .set('If-Match', '"1"')
      .send({ text: 'material "New"' })
      .expect(200);
    const changed = await api().get(`${path}?updatedSince=${since}`).expect(200);
    expect((changed.body as Saved[]).map((m) => m.title)).toEqual(['New']);
    expect((await api().get(`${path}?limit=9`)).headers.link).toBeUndefined();
    for (const query of [
      'limit=0',
      'limit=x',
      'cursor=!',
      'cursor=abc',
      `cursor=${Buffer.from('[1]').toString('base64url')}`,
      'updatedSince=soon',
      'other=1',
    ])
      await api().get(`${path}?${query}`).expect(400);
    const sources = await api().get(`/api/projects/${project.id}/sources?limit=2`).expect(200);
    expect(sources.body).toEqual([]);
    await api()
      .get('/api/projects?limit=1')
      .expect(200)
      .expect('Link', /cursor=.*rel="next"/);
  });
});

describe('the server itself', () => {
  it('says whether it can work, and that it cannot once its database is gone', async () => {
    const other = await serve();
    const ask = () => request(other.app.getHttpServer()).get('/api/health');
    const queue = { kind: 'threads', state: 'up', workers: 1, jobs: availableParallelism(), bakes: 0 };
    expect((await ask().expect(200)).body).toEqual({ status: 'ok', database: 'up', queue });
    await other.database.close();
    expect((await ask().expect(503)).body).toEqual({ status: 'failing', database: 'down', queue });
    await other.app.close();
  });

  it('stands beside another in one process, each over a database of its own', async () => {
    const [one, two] = [await serve(), await serve()];
    const names = async ({ app }: typeof one): Promise<string[]> =>
      ((await request(app.getHttpServer()).get('/api/projects')).body as Project[]).map((p) => p.name);
    await request(one.app.getHttpServer()).post('/api/projects').send({ name: 'One' }).expect(201);
    await request(two.app.getHttpServer()).post('/api/projects').send({ name: 'Two' }).expect(201);
    expect([await names(one), await names(two)]).toEqual([['One'], ['Two']]);
    await two.close();
    expect(await names(one)).toEqual(['One']);
    await one.close();
  });
});
