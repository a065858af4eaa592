import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import type { Material, Project, Source, Start } from '@estela/contract';
import { PNG } from 'pngjs';
import request from 'supertest';
import { serve, type Served } from './support.ts';

let { app, close } = {} as Served;
beforeAll(async () => {
  ({ app, close } = await serve());
});
afterAll(() => close());
const agent = () => request(app.getHttpServer());
const newProject = async (): Promise<Project> =>
  (await agent().post('/api/projects').send({ name: 'P' })).body as Project;
const sourcesOf = async ({ id }: Project): Promise<Source[]> =>
  (await agent().get(`/api/projects/${id}/sources`)).body as Source[];
const begin = async ({ id }: Project, start: string): Promise<Material> =>
  (await agent().post(`/api/projects/${id}/starts/${start}`).send({ title: 'Mine' }).expect(201)).body as Material;

describe('starts over HTTP', () => {
  it('are listed with what they are for, and every picture they read is there', async () => {
    const starts = (await agent().get('/api/starts').expect(200)).body as Start[];
    expect(starts.length).toBeGreaterThanOrEqual(20);
    expect(starts.filter((s) => s.sentence === '' || s.group === '')).toEqual([]);
    for (const image of new Set(starts.flatMap((s) => s.images)))
      await agent().get(`/api/starts/images/${image}`).expect(200).expect('Content-Type', 'image/png');
  });

  it('become materials of any project; pictures are copied once, and never over another', async () => {
    const project = await newProject();
    const first = await begin(project, 'glasshouse-pane');
    expect(first).toMatchObject({ title: 'Mine', revision: 1 });
    expect(first.text).toContain('"mist-a.png"');
    await begin(project, 'steady-rise');
    expect((await sourcesOf(project)).map((s) => s.name)).toEqual(['mist-a.png', 'mist-normal.png']);

    const other = await newProject();
    const own = PNG.sync.write(new PNG({ width: 2, height: 2 }));
    await agent()
      .post(`/api/projects/${other.id}/sources`)
      .field('name', 'mist-a.png')
      .attach('file', own, 'a.png')
      .expect(201);
    expect((await begin(other, 'steady-rise')).text).toContain('image vapour = "mist-a 2.png"');
    expect((await begin(other, 'twin-shells')).text).toContain('"mist-a 2.png"');
    expect((await sourcesOf(other)).map((s) => s.name)).toEqual(['mist-a 2.png', 'mist-a.png']);
  });

  it('are refused where they, their picture or the project is not there, and without a title', async () => {
    const { id } = await newProject();
    await agent().post(`/api/projects/${id}/starts/nothing`).send({ title: 'A' }).expect(404);
    await agent().post(`/api/projects/${id}/starts/steady-rise`).send({}).expect(400);
    await agent().post(`/api/projects/${id}/starts/..%2Fstarts`).send({ title: 'A' }).expect(400);
    await agent()
      .post('/api/projects/00000000-0000-4000-8000-000000000000/starts/steady-rise')
      .send({ title: 'A' })
      .expect(404);
    await agent().get('/api/starts/images/orrery-face.png').expect(404);
  });
});
