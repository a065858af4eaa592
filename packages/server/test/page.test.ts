import { createHash } from 'node:crypto';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from '@jest/globals';
import type { Material, PageData, Project } from '@estela/contract';
import request from 'supertest';
import { newFile, serve, type Served } from './support.ts';

const SCRIPT = 'begin();';
const web = mkdtempSync(join(tmpdir(), 'estela-web-'));
writeFileSync(join(web, 'index.html'), `<head><script>${SCRIPT}</script></head><body></body>`);

let { app, close } = {} as Served;
beforeAll(async () => {
  ({ app, close } = await serve(newFile(), { web }));
});
afterAll(() => close());
const agent = () => request(app.getHttpServer());

async function pageOf(
  text: string,
): Promise<{ readonly html: string; readonly data: PageData; readonly made: Material }> {
  const project = (await agent().post('/api/projects').send({ name: 'P' })).body as Project;
  const made = (await agent().post(`/api/projects/${project.id}/materials`).send({ text })).body as Material;
  const page = await agent().get(`/materials/${made.id}`).expect(200).expect('Cache-Control', 'no-store');
  const blocks = [...page.text.matchAll(/<script type="application\/json">(.*?)<\/script>/g)];
  expect(blocks).toHaveLength(1);
  return { html: page.text, data: JSON.parse(blocks[0]![1]!) as PageData, made };
}
const LOOP = 'loop 2s at 30fps\nsurface unlit opaque\n';

it('comes with a material as the API tells of it, whatever its text holds, and with its first picture', async () => {
  const text = `${LOOP}# </script><script>alert(1)</script> $& <!--\nout color = (1, 1, 1)\n`;
  const { data, made } = await pageOf(text);
  expect(data.material).toEqual(made);
  expect(data.project.id).toBe(made.projectId);
  expect(data.sources).toEqual([]);
});

it('comes with a picture where a text can be drawn, and without where it cannot', async () => {
  const good = await pageOf(`${LOOP}moved = uv |> pan(1/s)\ndots = moved |> fbm(4)\nout color = (dots, dots, dots)\n`);
  expect(good.data.picture?.loop.seconds).toBe(2);
  expect(good.data.picture?.glsl.uniforms.every((u) => u.node.kind === 'constant')).toBe(true);
  for (const text of ['', `${LOOP}out color = nothing\n`, `${LOOP}# ${'x'.repeat(20_000)}\nout color = (1, 1, 1)\n`])
    expect((await pageOf(text)).data.picture).toBeUndefined();
});

it('is plain elsewhere, and where there is no such material', async () => {
  const plain = await agent().get('/').expect(200).expect('Cache-Control', 'no-cache');
  expect(plain.text).not.toContain('json');
  for (const path of ['/materials/none', `/materials/${'0'.repeat(8)}-0000-4000-8000-${'0'.repeat(12)}`])
    expect((await agent().get(path).expect(200)).text).toBe(plain.text);
});

it('names the hash of the script within it in the policy', async () => {
  const hash = createHash('sha256').update(SCRIPT).digest('base64');
  const { headers } = await agent().get('/').expect(200);
  expect(headers['content-security-policy']).toContain(`script-src 'self' 'wasm-unsafe-eval' 'sha256-${hash}'`);
});
