import { writeFile } from 'node:fs/promises';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { glbOf } from '@estela/codecs/mesh';
import { shapeMesh } from '@estela/core';
import { pino } from 'pino';
import { PNG } from 'pngjs';
import request from 'supertest';
import { makeDatabase } from '../src/seed/seed.ts';
import { purge } from '../src/storage/purge.ts';
import { destroy, update } from '../src/storage/guarded.ts';
import { newFile, serve, type Served } from './support.ts';

let served: Served;
beforeAll(async () => {
  served = await serve();
});
afterAll(() => served.close());
const api = () => request(served.app.getHttpServer());

interface View {
  readonly id: string;
  readonly hash: string;
  readonly version: number;
}
const post = async (path: string, body: object): Promise<View> =>
  (await api().post(`/api/${path}`).send(body).expect(201)).body as View;
const newProject = async (): Promise<string> => (await post('projects', { name: 'Lasting' })).id;
const picture = (width: number): Buffer => PNG.sync.write(new PNG({ width, height: 1 }));
const SET = {
  name: 'Vents',
  items: [],
  scene: { environment: 'greenhouse', backdrop: 'grey', exposure: 0 },
  view: null,
};

describe('a save whose answer was lost', () => {
  it('can be sent again: what is stored already is no conflict, and no new version', async () => {
    const project = await newProject();
    const recipe = JSON.stringify({
      kind: 'path',
      drawing: { points: [{ x: 0.2, y: 0.3, width: 0.1 }], closed: false, size: 256 },
    });
    const [first, second] = await Promise.all(
      [3, 5].map(async (n) => Buffer.from(await glbOf(shapeMesh('plane', n), 'plane'))),
    );
    const material = await post(`projects/${project}/materials`, { text: 'out color = 1' });
    const set = await post(`projects/${project}/sets`, SET);
    const form = async (path: string, file: Buffer): Promise<View> =>
      (
        await api()
          .post(`/api/projects/${project}/${path}`)
          .field('name', 'a.png')
          .attach('file', file, 'a')
          .expect(201)
      ).body as View;
    const [source, mesh] = [await form('sources', picture(2)), await form('meshes', first!)];
    const saves = [
      (match: string) =>
        api().put(`/api/materials/${material.id}`).set('If-Match', match).send({ text: 'out color = 2' }),
      (match: string) =>
        api()
          .put(`/api/sets/${set.id}`)
          .set('If-Match', match)
          .send({ ...SET, name: 'Ducts' }),
      (match: string) =>
        api()
          .put(`/api/sources/${source.id}`)
          .set('If-Match', match)
          .field('recipe', recipe)
          .attach('file', picture(4), 'a.png'),
      (match: string) => api().put(`/api/meshes/${mesh.id}`).set('If-Match', match).attach('file', second!, 'file'),
    ];
    for (const send of saves) {
      await send('"1"').expect(200).expect('ETag', '"2"');
      await send('"1"').expect(200).expect('ETag', '"2"');
      await send('"7"').expect(200).expect('ETag', '"2"');
      await send('').expect((r) => [412, 428, 200].includes(r.status));
    }
    // Another content is one.
    await api().put(`/api/materials/${material.id}`).set('If-Match', '"1"').send({ text: 'out color = 3' }).expect(412);
    await api().put(`/api/sets/${set.id}`).set('If-Match', '"1"').send(SET).expect(412);
    await api().put(`/api/sources/${source.id}`).set('If-Match', '"1"').field('recipe', 'null').expect(412);
    await api().put(`/api/meshes/${mesh.id}`).set('If-Match', '"1"').field('name', 'b.png').expect(412);
    await api().put(`/api/materials/${material.id}`).send({ text: 'out color = 2' }).expect(428);
    expect((await api().get(`/api/materials/${material.id}/revisions`)).body).toHaveLength(2);
  });
});

describe('rows', () => {
  it('are written only where they still are what was read, whoever else writes', async () => {
    const project = await newProject();
    const set = await post(`projects/${project}/sets`, SET);
    const material = await post(`projects/${project}/materials`, { text: 'out color = 1' });
    // Two processes that have read the same.
    const [mine, theirs] = [
      (await served.database.sets.findByPk(set.id))!,
      (await served.database.sets.findByPk(set.id))!,
    ];
    await update(mine, { name: 'mine' }, { what: 'set' });
    expect(mine.version).toBe(2);
    await expect(update(theirs, { name: 'theirs' }, { what: 'set' })).rejects.toMatchObject({ kind: 'stale' });
    await expect(destroy(theirs, { what: 'set' })).rejects.toMatchObject({ kind: 'stale' });
    expect((await served.database.sets.findByPk(set.id))!.name).toBe('mine');
    const row = (await served.database.materials.findByPk(material.id))!;
    const guard = { what: 'material', counter: 'revision' } as const;
    await update((await served.database.materials.findByPk(material.id))!, { text: 'new' }, guard);
    await expect(update(row, { deletedAt: new Date() }, { ...guard, next: row.revision })).rejects.toMatchObject({
      kind: 'stale',
    });
    expect((await served.database.materials.findByPk(material.id))!.deletedAt).toBeNull();
  });
});

describe('what is no longer used', () => {
  const day = 24 * 3600 * 1000;
  const later = (days: number): Promise<void> => purge(served.database, new Date(Date.now() + days * day));
  const kept = async (hash: string): Promise<boolean> =>
    (await served.database.sequelize.query('SELECT 1 FROM blobs WHERE hash = ?', { replacements: [hash] }))[0].length >
    0;

  it('goes a week after it was last used, and not by when it came', async () => {
    const project = await newProject();
    const upload = async (name: string, width: number): Promise<View> =>
      (
        await api()
          .post(`/api/projects/${project}/sources`)
          .field('name', name)
          .attach('file', picture(width), name)
          .expect(201)
      ).body as View;
    const [one, two, shared] = [await upload('a.png', 11), await upload('b.png', 12), await upload('c.png', 11)];
    const old = new Date(Date.now() - 9 * day).toISOString();
    await served.database.sequelize.query('UPDATE blobs SET createdAt = ?', { replacements: [old] });
    await later(400);
    expect([await kept(one.hash), await kept(two.hash)]).toEqual([true, true]);
    // Replaced today, after nine days: undo can bring it back for a week.
    await api().put(`/api/sources/${two.id}`).set('If-Match', '"1"').attach('file', picture(13), 'b.png').expect(200);
    await later(6.9);
    await api().put(`/api/sources/${two.id}`).set('If-Match', '"2"').field('hash', two.hash).expect(200);
    await later(400);
    expect(await kept(two.hash)).toBe(true);
    // One of two that use it goes: it is used still.
    await api().delete(`/api/sources/${one.id}`).set('If-Match', '"1"').expect(204);
    await later(400);
    expect(await kept(one.hash)).toBe(true);
    await api().delete(`/api/sources/${shared.id}`).set('If-Match', '"1"').expect(204);
    await later(6.9);
    expect(await kept(one.hash)).toBe(true);
    await later(7.1);
    expect(await kept(one.hash)).toBe(false);
  });

  it('goes with its project too, meshes like pictures, and a deleted material with its revisions', async () => {
    const project = await newProject();
    const file = Buffer.from(await glbOf(shapeMesh('plane', 7), 'plane'));
    const mesh = (
      await api().post(`/api/projects/${project}/meshes`).field('name', 'a').attach('file', file, 'a').expect(201)
    ).body as View;
    const material = await post(`projects/${project}/materials`, { text: 'out color = 1' });
    await api().delete(`/api/materials/${material.id}`).set('If-Match', '"1"').expect(204);
    await later(6.9);
    await api().post(`/api/materials/${material.id}/restore`).expect(200);
    await api().delete(`/api/materials/${material.id}`).set('If-Match', '"1"').expect(204);
    await later(7.1);
    await api().post(`/api/materials/${material.id}/restore`).expect(404);
    await api().delete(`/api/projects/${project}`).set('If-Match', '"1"').expect(204);
    expect([await served.database.meshes.count({ where: { id: mesh.id } }), await kept(mesh.hash)]).toEqual([0, true]);
    await later(7.1);
    expect(await kept(mesh.hash)).toBe(false);
  });
});

describe('bodies', () => {
  it('that are not there, or are something else, are refused with a sentence on every route that needs one', async () => {
    const project = await newProject();
    const material = await post(`projects/${project}/materials`, { text: 'out color = 1' });
    const set = await post(`projects/${project}/sets`, SET);
    const routes = [
      ['post', 'projects'],
      ['patch', `projects/${project}`],
      ['post', `projects/${project}/materials`],
      ['put', `materials/${material.id}`],
      ['patch', `materials/${material.id}/revisions/1`],
      ['post', `projects/${project}/sets`],
      ['put', `sets/${set.id}`],
      ['post', `projects/${project}/sources`],
      ['post', `projects/${project}/meshes`],
      ['put', `sources/${material.id}`],
      ['put', `meshes/${material.id}`],
    ] as const;
    const many = (n: number): string => `{${Array.from({ length: n }, (_, i) => `"k${String(i)}":0`).join(',')}}`;
    for (const [verb, path] of routes) {
      const send = () => api()[verb](`/api/${path}`).set('If-Match', '"1"');
      const bodies = [
        send(),
        send().type('text/plain').send('x'),
        send().type('json').send('null'),
        send().type('json').send('[]'),
        send()
          .type('json')
          .send(many(path === 'projects' ? 150_000 : 3000)),
      ];
      const answers = await Promise.all(bodies);
      for (const answer of answers) {
        const problem = answer.body as { detail: string };
        expect([verb, path, answer.status, problem.detail.length > 10 && problem.detail.length < 5000]).toEqual([
          verb,
          path,
          answer === answers[1] ? 415 : 400,
          true,
        ]);
      }
    }
    expect((await api().get(`/api/projects/${project}`)).headers.etag).toBe('"1"');
    // A few wrong things are all told.
    const problem = (await api().post('/api/projects').send({ name: '', a: 1, b: 2 }).expect(400)).body as {
      errors: unknown[];
    };
    expect(problem.errors).toHaveLength(3);
  });
});

describe('hostile meshes', () => {
  const glbWith = (json: object, bytes = 0): Buffer => {
    const text = Buffer.from(JSON.stringify(json));
    const padded = Buffer.concat([text, Buffer.alloc((4 - (text.length % 4)) % 4, 0x20)]);
    const head = (length: number, kind: string): Buffer => {
      const out = Buffer.alloc(8);
      out.writeUInt32LE(length);
      out.write(kind, 4, 'latin1');
      return out;
    };
    const chunks = [
      head(padded.length, 'JSON'),
      padded,
      ...(bytes > 0 ? [head(bytes, 'BIN\0'), Buffer.alloc(bytes)] : []),
    ];
    const start = Buffer.alloc(12);
    start.write('glTF');
    start.writeUInt32LE(2, 4);
    start.writeUInt32LE(12 + chunks.reduce((sum, c) => sum + c.length, 0), 8);
    return Buffer.concat([start, ...chunks]);
  };
  const scene = {
    asset: { version: '2.0' },
    scenes: [{ nodes: [0] }],
    nodes: [{ mesh: 0 }],
    meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
  };

  it('of 212 bytes or 60 MB are refused, while others are answered at once', async () => {
    const project = await newProject();
    const send = (file: Buffer) =>
      api().post(`/api/projects/${project}/meshes`).field('name', 'x').attach('file', file, 'x');
    const files = [
      glbWith({ ...scene, accessors: [{ componentType: 5126, count: 1_000_000_000, type: 'VEC3' }] }),
      glbWith({ ...scene, accessors: [{ componentType: 5126, count: 30_000_000, type: 'VEC3' }] }),
      // As much as there may be: 20,000 nodes share one mesh of 3,000 vertices.
      glbWith({
        ...scene,
        scenes: [{ nodes: Array.from({ length: 20_000 }, (_, i) => i) }],
        nodes: Array.from({ length: 20_000 }, () => ({ mesh: 0 })),
        accessors: [{ componentType: 5126, count: 3000, type: 'VEC3' }],
      }),
      glbWith({ ...scene, more: Array.from({ length: 6_000_000 }, () => []) }),
      Buffer.from(JSON.stringify(scene)),
      Buffer.concat([glbWith(scene).subarray(0, 12), Buffer.alloc(60 * 1024 * 1024, 0x5b)]),
    ];
    let [over, asked] = [false, 0];
    const others = (async () => {
      while (!over) {
        await api().get('/api/projects').expect(200);
        asked++;
      }
    })();
    const answers = await Promise.all(files.map((file) => send(file)));
    over = true;
    await others;
    expect(answers.map((a) => a.status)).toEqual([413, 413, 413, 422, 422, 422]);
    expect(asked).toBeGreaterThan(1);
    for (const { body } of answers) expect(body).toMatchObject({ detail: expect.stringMatching(/^"x" /) });
    // It reads on.
    const sound = Buffer.from(await glbOf(shapeMesh('plane', 3), 'plane'));
    expect((await send(sound).expect(201)).body).toMatchObject({ triangles: 18 });
  }, 240_000);
});

describe('the first database', () => {
  it('is made where there is none and left alone where there is, the same each time', async () => {
    const demo = fileURLToPath(new URL('../../../demo/', import.meta.url));
    const log = pino({ level: 'silent' });
    const file = newFile();
    // What an interrupted start left.
    await writeFile(`${file}.seeding`, 'half a database');
    expect(await makeDatabase(file, demo, log)).toBeGreaterThanOrEqual(4);
    expect(await makeDatabase(file, demo, log)).toBe(0);
    const other = await serve(file);
    const rows = await other.database.sources.findAll({ order: ['name'] });
    // Drawn on any machine, these are the same bytes.
    expect(rows.map((r) => `${r.name} ${r.hash.slice(0, 12)}`)).toMatchSnapshot();
    await other.close();
  }, 240_000);
});
