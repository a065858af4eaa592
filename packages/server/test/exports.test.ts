import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import type { Material, Project } from '@estela/contract';
import { unzipSync } from 'fflate';
import { PNG } from 'pngjs';
import request from 'supertest';
import { serve, type Served } from './support.ts';

let { app, close } = {} as Served;
let project: Project;
beforeAll(async () => {
  ({ app, close } = await serve());
  project = (await agent().post('/api/projects').send({ name: 'P' })).body as Project;
});
afterAll(() => close());
const agent = () => request(app.getHttpServer());

const make = async (text: string): Promise<Material> =>
  (await agent().post(`/api/projects/${project.id}/materials`).send({ text })).body as Material;
const HEAD = 'loop 1s at 4fps\nsurface unlit opaque\n';
const plain = (title: string): Promise<Material> =>
  make(`material "${title}"\n${HEAD}dial d = 0.5 in 0..1\nout color = (d, 0.2, 0.3)\nvariant "Low" { d = 0.1 }\n`);
const zipAt = (path: string) => agent().get(path).responseType('blob');
const bodyOf = async (path: string): Promise<unknown> =>
  ((await zipAt(path).expect(200)) as { readonly body: unknown }).body;
const filesOf = (body: unknown): Record<string, Uint8Array> => unzipSync(new Uint8Array(body as Buffer));

describe('a package over HTTP', () => {
  it('is the same bytes each time, under its name, with the revision', async () => {
    const material = await plain('Glow worm');
    const path = `/api/materials/${material.id}/export.zip`;
    const first = await zipAt(path)
      .expect(200)
      .expect('Content-Type', 'application/zip')
      .expect('Content-Disposition', 'attachment; filename="glow-worm.zip"');
    const second = await zipAt(`${path}?target=glsl,hlsl,wgsl,c,js`).expect(200);
    expect(Buffer.compare(first.body as Buffer, second.body as Buffer)).toBe(0);
    const files = filesOf(first.body);
    expect(JSON.parse(Buffer.from(files['glow-worm.json']!).toString())).toMatchObject({ revision: 1, variant: null });
    expect(Buffer.from(files['glow-worm.wake']!).toString()).toBe(material.text);
    await agent()
      .put(`/api/materials/${material.id}`)
      .set('If-Match', '"1"')
      .send({ text: material.text.replace('0.2', '0.4') })
      .expect(200);
    const third = filesOf((await zipAt(path).expect(200)).body);
    expect(JSON.parse(Buffer.from(third['glow-worm.json']!).toString())).toMatchObject({ revision: 2 });
  });

  it('is of a variant and of languages, where those are there', async () => {
    const { id } = await plain('Low tide');
    const body = await bodyOf(`/api/materials/${id}/export.zip?variant=Low&target=c`);
    const files = filesOf(body);
    expect(Object.keys(files).filter((n) => /glsl|hlsl|wgsl|\.js$/.test(n))).toEqual([]);
    expect(JSON.parse(Buffer.from(files['low-tide.json']!).toString())).toMatchObject({
      variant: 'Low',
      dials: { d: { default: 0.1 } },
    });
    await agent()
      .get(`/api/materials/${id}/export.zip?variant=None`)
      .expect(422)
      .expect('Content-Type', /problem/);
    for (const wrong of [
      'target=',
      'target=glsl,other',
      'target=c,c',
      'normalY=left',
      'leaveOutMissing=perhaps',
      'other=1',
    ])
      await agent()
        .get(`/api/materials/${id}/export.zip?${wrong}`)
        .expect(400)
        .expect('Content-Type', /problem/);
    await agent().get('/api/materials/00000000-0000-4000-8000-000000000000/export.zip').expect(404);
  });

  it('is refused with errors, over limits, and without images, which can be left out', async () => {
    const broken = await make(`${HEAD}out color = nothing\n`);
    const said = await agent().get(`/api/materials/${broken.id}/export.zip`).expect(422);
    expect(said.body).toMatchObject({ detail: expect.stringContaining('nothing') });
    const empty = await make('');
    await agent().get(`/api/materials/${empty.id}/export.zip`).expect(200);
    const lacks = await make(`${HEAD}image a = "gone.png"\nout color = (uv |> sample(a)).rgb\n`);
    const path = `/api/materials/${lacks.id}/export.zip`;
    expect((await agent().get(path).expect(422)).body).toMatchObject({ missing: ['gone.png'] });
    await agent().get(`${path}?leaveOutMissing=true`).expect(200);
    const png = PNG.sync.write(Object.assign(new PNG({ width: 2, height: 2 }), { data: Buffer.alloc(16, 90) }));
    await agent()
      .post(`/api/projects/${project.id}/sources`)
      .field('name', 'gone.png')
      .attach('file', png, 'gone.png')
      .expect(201);
    const files = filesOf((await zipAt(path).expect(200)).body);
    expect(Buffer.compare(Buffer.from(files['textures/gone.png']!), png)).toBe(0);
  });

  it('is several, each in a folder of its own, or none', async () => {
    const two = [await plain('Twin'), await plain('Twin')];
    const path = `/api/projects/${project.id}/export.zip`;
    const body = await bodyOf(`${path}?materials=${two.map((m) => m.id).join(',')}&target=glsl`);
    expect(Object.keys(filesOf(body)).filter((n) => n.endsWith('twin.glsl'))).toEqual([
      'twin/twin.glsl',
      'twin-2/twin.glsl',
    ]);
    for (const wrong of ['', '?materials=', '?materials=x', `?materials=${two[0]!.id},${two[0]!.id}`])
      await agent().get(`${path}${wrong}`).expect(400);
    const elsewhere = (await agent().post('/api/projects').send({ name: 'Q' })).body as Project;
    await agent().get(`/api/projects/${elsewhere.id}/export.zip?materials=${two[0]!.id}`).expect(404);
  });

  it('has a page that may run what is in it and nothing else', async () => {
    const { id } = await plain('Lantern');
    const { text, headers } = await agent().get(`/api/materials/${id}/export/index.html?size=32`).expect(200);
    expect(headers['content-security-policy']).toMatch(/default-src 'none'.*sandbox allow-scripts/);
    expect(text).toContain('estelaPackage');
  });
});

describe('a GLB over HTTP', () => {
  const glbAt = (path: string) => agent().get(path).responseType('blob');

  it('holds a material on a shape or a mesh of the project, and says so', async () => {
    const { id } = await plain('Night moth');
    const answer = await glbAt(`/api/materials/${id}/export.glb?mesh=sphere&size=64`)
      .expect(200)
      .expect('Content-Type', 'model/gltf-binary')
      .expect('Content-Disposition', 'attachment; filename="night-moth.glb"');
    const bytes = new Uint8Array(answer.body as Buffer);
    const read = (text: Uint8Array): { readonly materials: { readonly name: string }[] } =>
      JSON.parse(
        Buffer.from(text.subarray(20, 20 + new DataView(text.buffer, text.byteOffset).getUint32(12, true))).toString(),
      ) as { readonly materials: { readonly name: string }[] };
    expect(read(bytes).materials.map((m) => m.name)).toEqual(['Night moth', 'Night moth: Low']);
    const mesh = (
      await agent()
        .post(`/api/projects/${project.id}/meshes`)
        .field('name', 'own')
        .attach('file', Buffer.from(bytes), 'own.glb')
        .expect(201)
    ).body as { readonly id: string };
    const own = await glbAt(`/api/materials/${id}/export.glb?mesh=${mesh.id}&variant=Low`).expect(200);
    expect(read(new Uint8Array(own.body as Buffer)).materials.map((m) => m.name)).toEqual(['Night moth']);
    const set = (
      await agent()
        .post(`/api/projects/${project.id}/sets`)
        .send({
          name: 'Row',
          items: [
            {
              id: 'one',
              mesh: mesh.id,
              subdivisions: null,
              material: id,
              variant: 'Low',
              position: [0, 0, 0],
              turn: [0, 0, 0],
              scale: 1,
              copies: { kind: 'row', count: 3, step: [1, 0, 0] },
              turning: 0,
              delay: 0,
              overlay: false,
            },
          ],
          scene: { environment: 'studio', backdrop: 'plain', exposure: 0 },
          view: null,
        })
        .expect(201)
    ).body as { readonly id: string };
    const scene = await glbAt(`/api/sets/${set.id}/export.glb?instanced=true`)
      .expect(200)
      .expect('Content-Disposition', 'attachment; filename="row.glb"');
    expect(read(new Uint8Array(scene.body as Buffer)).materials.map((m) => m.name)).toEqual(['Night moth: Low']);
    // What is deleted since is left out, and said.
    await agent().delete(`/api/meshes/${mesh.id}`).set('If-Match', '"1"').expect(204);
    const without = await glbAt(`/api/sets/${set.id}/export.glb`).expect(200);
    expect(Buffer.from(without.body as Buffer).toString('latin1')).toContain('is no longer in the project');
  });

  it.each([
    ['mesh=pyramid', 400],
    ['size=500', 400],
    ['frames=9999', 400],
    ['images=bmp', 400],
    ['variant=None', 422],
    ['mesh=00000000-0000-4000-8000-000000000000', 404],
  ])('is refused with ?%s', async (query, status) => {
    const { id } = await plain('Moth');
    await agent().get(`/api/materials/${id}/export.glb?${query}`).expect(status);
  });

  it('is refused with errors in the text, and without images unless they are left out', async () => {
    const broken = await make(`${HEAD}out color = nothing\n`);
    const answer = await agent().get(`/api/materials/${broken.id}/export.glb`).expect(422);
    expect((answer.body as { detail: string }).detail).toContain("'nothing'");
    const lacking = await make(`${HEAD}image a = "never.png"\nout color = uv |> sample(a)\n`);
    const refused = await agent().get(`/api/materials/${lacking.id}/export.glb`).expect(422);
    expect(refused.body).toMatchObject({ missing: ['never.png'] });
    await agent().get(`/api/materials/${lacking.id}/export.glb?leaveOutMissing=true`).expect(200);
  });
});
