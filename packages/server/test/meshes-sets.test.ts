import { glbOf } from '@estela/codecs/mesh';
import { shapeMesh } from '@estela/core';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import request from 'supertest';
import { serve, type Served } from './support.ts';

let served: Served;
beforeAll(async () => {
  served = await serve();
});
afterAll(() => served.close());
const api = () => request(served.app.getHttpServer());

interface View {
  id: string;
  hash: string;
  version: number;
}
const newProject = async (): Promise<string> =>
  ((await api().post('/api/projects').send({ name: 'Test' }).expect(201)).body as View).id;
const glb = async (subdivisions: number): Promise<Buffer> =>
  Buffer.from(await glbOf(shapeMesh('plane', subdivisions), 'plane'));

describe('meshes', () => {
  it('are kept as GLB, changed guarded by their version, and given back byte for byte', async () => {
    const project = await newProject();
    const bytes = await glb(3);
    const post = () => api().post(`/api/projects/${project}/meshes`);
    const made = await post().field('name', 'sheet').attach('file', bytes, 'file').expect(201).expect('ETag', '"1"');
    const mesh = made.body as View;
    expect(mesh).toMatchObject({ name: 'sheet', triangles: 18, size: bytes.length, version: 1 });
    const path = `/api/meshes/${mesh.id}`;
    const content = await api()
      .get(`${path}/content`)
      .buffer(true)
      .parse((response, done) => {
        const chunks: Buffer[] = [];
        response.on('data', (chunk: Buffer) => chunks.push(chunk));
        response.on('end', () => {
          done(null, Buffer.concat(chunks));
        });
      });
    expect([(content.body as Buffer).equals(bytes), content.type]).toEqual([true, 'model/gltf-binary']);
    await post().field('name', 'sheet').attach('file', bytes, 'file').expect(409);
    await api()
      .put(path)
      .attach('file', await glb(5), 'file')
      .expect(428);
    const changed = await api()
      .put(path)
      .set('If-Match', '"1"')
      .attach('file', await glb(5), 'file')
      .expect(200);
    expect(changed.body).toMatchObject({ triangles: 50, version: 2 });
    await api().put(path).set('If-Match', '"1"').field('name', 'late').expect(412);
    // Back to what it was, by its hash alone.
    const back = await api().put(path).set('If-Match', '"2"').field('hash', mesh.hash).expect(200);
    expect(back.body).toMatchObject({ triangles: 18, hash: mesh.hash, name: 'sheet' });
    expect((await api().get(`/api/projects/${project}/meshes`).expect(200)).body).toHaveLength(1);
    await api().delete(path).set('If-Match', '"3"').expect(204);
    await api().get(path).expect(404);
  });

  it.each([
    ['bytes that are no mesh', Buffer.from('glTF rubbish'), 422, 'broken GLB'],
    ['a picture', Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]), 422, 'broken'],
  ])('refuse %s with a plain sentence, and keep nothing', async (_, bytes, status, words) => {
    const project = await newProject();
    const answer = await api()
      .post(`/api/projects/${project}/meshes`)
      .field('name', 'odd')
      .attach('file', bytes, 'file')
      .expect(status)
      .expect('Content-Type', /problem/);
    expect((answer.body as { detail: string }).detail).toContain(words);
    await api().post(`/api/projects/${project}/meshes`).field('name', 'none').expect(400);
    expect((await api().get(`/api/projects/${project}/meshes`)).body).toEqual([]);
  });
});

describe('sets', () => {
  const item = {
    id: 'a',
    mesh: 'tube',
    subdivisions: null,
    material: null,
    variant: null,
    position: [0, 0, 0],
    turn: [0, 90, 0],
    scale: 1,
    copies: null,
    turning: 0,
    delay: 0,
    overlay: false,
  };
  const body = {
    name: 'Bend',
    items: [item],
    scene: { environment: 'dusk', backdrop: 'room', exposure: 0.5 },
    view: null,
  };
  it('are kept whole and changed guarded by their version', async () => {
    const project = await newProject();
    const made = await api().post(`/api/projects/${project}/sets`).send(body).expect(201);
    const set = made.body as View;
    expect(set).toMatchObject(body);
    const row = { ...item, copies: { kind: 'row', count: 4, step: [1, 0, 0] } };
    await api().put(`/api/sets/${set.id}`).send(body).expect(428);
    await api()
      .put(`/api/sets/${set.id}`)
      .set('If-Match', '"1"')
      .send({ ...body, items: [row] })
      .expect(200);
    await api().put(`/api/sets/${set.id}`).set('If-Match', '"1"').send(body).expect(412);
    expect((await api().get(`/api/sets/${set.id}`)).body).toMatchObject({ items: [row], version: 2 });
    await api().post(`/api/projects/${project}/sets`).send(body).expect(409);
    await api().delete(`/api/sets/${set.id}`).set('If-Match', '"2"').expect(204);
    expect((await api().get(`/api/projects/${project}/sets`)).body).toEqual([]);
  });
  it.each([
    [{ items: [{ ...item, mesh: 'teacup' }] }, 'mesh'],
    [{ items: [{ ...item, scale: 0 }] }, 'scale'],
    [{ items: [{ ...item, copies: { kind: 'row', count: 100000, step: [1, 0, 0] } }] }, 'count'],
    [{ items: [{ ...item, position: [0, Number.MAX_VALUE, 0] }] }, 'position'],
    [{ items: [item, item] }, 'items'],
    [{ name: '' }, 'name'],
    [{ script: 'x' }, 'script'],
  ])('refuse %j', async (change, word) => {
    const project = await newProject();
    const answer = await api()
      .post(`/api/projects/${project}/sets`)
      .send({ ...body, ...change })
      .expect(400);
    expect(JSON.stringify(answer.body)).toContain(word);
  });
});
