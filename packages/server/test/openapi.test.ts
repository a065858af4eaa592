import { execFileSync, spawn } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { glbOf } from '@estela/codecs/mesh';
import { OPERATIONS } from '@estela/contract';
import { shapeMesh } from '@estela/core';
import { RequestMethod, type Type } from '@nestjs/common';
import { ModulesContainer } from '@nestjs/core';
import { Ajv, type ValidateFunction } from 'ajv';
import formats from 'ajv-formats';
import { PNG } from 'pngjs';
import type { Validated } from '../src/http/validate.ts';
import { hashOf } from '../src/access/token.ts';
import { BakesService } from '../src/bakes/bakes.service.ts';
import { EventsService } from '../src/events/events.service.ts';
import { clientOf, type Described } from './openapi-client.ts';
import { newFile, serve, type Served } from './support.ts';

const ROOT = join(import.meta.dirname, '../../..');
const TOKEN = 'a-token-for-foreign-clients';
let served: Served;
let address: string;
let described: Described;
beforeAll(async () => {
  served = await serve(newFile(), { tokenHash: hashOf(TOKEN) });
  await served.app.listen(0, '127.0.0.1');
  address = `http://127.0.0.1:${String((served.app.getHttpServer().address() as AddressInfo).port)}`;
  described = (await (await ask('get', '/api/openapi.json')).json()) as Described;
});
afterAll(async () => {
  served.app.get(EventsService).end();
  await served.close();
});

const ask = (method: string, path: string, init: RequestInit = {}, token = TOKEN): Promise<Response> =>
  fetch(`${address}${path}`, {
    method: method.toUpperCase(),
    ...init,
    headers: { ...(token === '' ? {} : { authorization: `Bearer ${token}` }), ...(init.headers as object) },
  });

const operations = (): readonly { path: string; method: string; operation: Described['paths'][string][string] }[] =>
  Object.entries(described.paths).flatMap(([path, methods]) =>
    Object.entries(methods).map(([method, operation]) => ({ path, method, operation })),
  );

const validators = new Map<string, ValidateFunction>();
/** Holds a body to the schema that the document gives for an answer. */
function held(name: string, status: number, type: string, body: unknown): void {
  const { operation } = operations().find((o) => o.operation.operationId === name)!;
  let answer = operation.responses[status];
  expect([name, status, answer !== undefined]).toEqual([name, status, true]);
  if (answer?.$ref !== undefined) answer = described.components.responses[answer.$ref.split('/').at(-1)!];
  const content = Object.entries(answer?.content ?? {});
  if (content.length === 0) return;
  const [media, { schema }] = content[0]!;
  if (media.includes('*')) expect(type).toMatch(new RegExp(`^${media.replaceAll('*', '[\\w-]+')}`));
  else expect([name, type.split(';')[0]]).toEqual([name, media]);
  if (!media.endsWith('json')) return;
  const key = `${name} ${String(status)}`;
  if (!validators.has(key)) {
    const ajv = new Ajv({ strict: false, allErrors: true });
    (formats as unknown as { default: (ajv: Ajv) => void }).default(ajv);
    validators.set(key, ajv.compile({ ...schema, components: described.components }));
  }
  const validate = validators.get(key)!;
  expect([name, status, validate(body), validate.errors, body]).toEqual([name, status, true, null, body]);
}

describe('the description of the API', () => {
  it('has every route, once, with the very schemas that validate it', () => {
    const routes: string[] = [];
    for (const module of served.app.get(ModulesContainer).values())
      for (const { metatype } of module.controllers.values()) {
        const controller = metatype as Type;
        const prototype = controller.prototype as Record<string, object>;
        for (const key of Object.getOwnPropertyNames(prototype)) {
          const verb = Reflect.getMetadata('method', prototype[key]!) as RequestMethod | undefined;
          if (verb === undefined) continue;
          const parts = [controller, prototype[key]!].map((of) => Reflect.getMetadata('path', of) as string);
          const path = `/${parts.join('/')}`.replaceAll(/\/+/g, '/').replace(/(.)\/$/, '$1');
          const method = RequestMethod[verb].toLowerCase();
          routes.push(`${method} ${path.replaceAll(/:\w+/g, '{}')}`);
          const operation = OPERATIONS.find(
            (o) => o.method === method && o.path.replaceAll(/\{\w+\}/g, '{}') === path.replaceAll(/:\w+/g, '{}'),
          );
          expect([path, operation !== undefined]).toEqual([path, true]);
          const given = (Reflect.getMetadata('__routeArguments__', controller, key) ?? {}) as Record<
            string,
            { pipes: unknown[] }
          >;
          // 3 is a body and 4 a query in Nest's own count of what a handler is given.
          for (const [kind, schema] of [
            ['3', operation?.body],
            ['4', operation?.query],
          ] as const) {
            const [, found] = Object.entries(given).find(([at]) => at.startsWith(`${kind}:`)) ?? [];
            const pipe = found?.pipes[0] as Validated<unknown> | undefined;
            if (operation?.name === 'playMaterial') expect(pipe?.schema.describe()).toEqual(schema?.describe());
            else expect([path, method, kind, pipe?.schema === schema]).toEqual([path, method, kind, true]);
          }
        }
      }
    expect(routes.sort()).toEqual(OPERATIONS.map((o) => `${o.method} ${o.path.replaceAll(/\{\w+\}/g, '{}')}`).sort());
  });

  it('makes a client that drives every operation, whose answers are as it says', async () => {
    const cache = join(ROOT, 'node_modules/.cache');
    mkdirSync(cache, { recursive: true });
    const folder = mkdtempSync(join(cache, 'estela-client-'));
    try {
      writeFileSync(join(folder, 'image'), PNG.sync.write(new PNG({ width: 4, height: 2 })));
      const trial = await served.app.get(BakesService).trial();
      // Only a worker that computes as the server does, at the same time, is taken on.
      const bodies = {
        joinWorkers: `{ name: 'alder', jobs: 2, build: 'sources', trial: '${trial}', clock: new Date().toISOString(), at: [] }`,
      };
      writeFileSync(join(folder, 'mesh'), await glbOf(shapeMesh('plane', 2), 'plane'));
      for (const [name, text] of Object.entries(await clientOf(described, bodies)))
        writeFileSync(join(folder, name), text);
      const run = (...args: string[]): string =>
        execFileSync(process.execPath, args, { cwd: folder, encoding: 'utf8', stdio: 'pipe' });
      run(join(ROOT, 'node_modules/typescript7/bin/tsc'), '-p', '.');
      // What it says is not held up by this process, which serves it.
      const child = spawn(process.execPath, ['out/client.js', address, TOKEN], { cwd: folder });
      let said = '';
      child.stderr.on('data', (words: Buffer) => (said += words.toString()));
      const code = await new Promise((done) => child.on('exit', done));
      expect([code, said]).toEqual([0, '']);
      const answers = JSON.parse(readFileSync(join(folder, 'answers.json'), 'utf8')) as {
        name: string;
        status: number;
        type: string;
        id: string | null;
        body: unknown;
      }[];
      expect(answers.map((a) => a.name).sort()).toEqual(OPERATIONS.map((o) => o.name).sort());
      for (const { name, status, type, id, body } of answers) {
        expect([name, status]).toEqual([name, OPERATIONS.find((o) => o.name === name)!.status]);
        expect(id).toMatch(/^[0-9a-f-]{36}$/);
        held(name, status, type, body);
      }
    } finally {
      rmSync(folder, { recursive: true, force: true });
    }
  }, 180_000);

  it('lists every way to refuse, and what is refused says why and nothing of the inside', async () => {
    const project = (await (
      await ask('post', '/api/projects', {
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ name: 'Refusals' }),
      })
    ).json()) as { id: string };
    const filled = (path: string, id: string): string =>
      path
        .replace('{projectId}', path.endsWith('{projectId}') ? id : project.id)
        .replace('{number}', '1')
        .replace('{start}', 'ember-cloud')
        .replace('{picture}', 'mist-a.png')
        .replace('{first}', '0')
        .replace('{hash}', 'ab'.repeat(32))
        .replaceAll(/\{\w+\}/g, id);
    const nobody = '00000000-0000-4000-8000-000000000000';
    const json = (body: string, more = {}): RequestInit => ({
      body,
      headers: { 'content-type': 'application/json', 'if-match': '"1"', ...more },
    });
    for (const { path, method, operation } of operations()) {
      const { operationId: name, requestBody } = operation;
      const here = filled(path, nobody);
      const tries: (readonly [expected: number, path: string, init?: RequestInit, token?: string])[] = [];
      if (name !== 'readHealth') {
        tries.push([401, here, {}, '']);
        // Each is answered later than the one before.
        if (name === 'readProject') tries.push([401, here, {}, 'a-token-that-is-wrong']);
        tries.push([403, here, { headers: { origin: 'http://evil.example' } }]);
      }
      const other = ['patch', 'put', 'post'].find((m) => !Object.keys(described.paths[path]!).includes(m))!;
      const wrong = await ask(other, here, { method: other.toUpperCase() });
      expect([name, wrong.status, wrong.headers.get('allow')?.includes(method.toUpperCase())]).toEqual([
        name,
        405,
        true,
      ]);
      expect(await wrong.json()).toMatchObject({ type: '/problems/wrong-method', status: 405 });
      const bytes = requestBody?.content['application/octet-stream'] !== undefined;
      const example = JSON.stringify(requestBody?.content['application/json']?.example ?? {});
      if (here.includes(nobody)) {
        const body = requestBody ? json(example) : { headers: { 'if-match': '"1"' } };
        if (!bytes && name !== 'joinWorkers') tries.push([404, here, body]);
        if (!bytes) tries.push([400, here.replace(nobody, 'nonsense'), body]);
      }
      if (bytes) tries.push([415, here, json('{}')]);
      if (operation.parameters.some((p) => p.in === 'query' && p.name === 'limit'))
        tries.push([400, `${here}?limit=0`], [400, `${here}?cursor=bm9uc2Vuc2U`], [400, `${here}?unknown=1`]);
      if (requestBody && !bytes) {
        tries.push([400, here, json('{"nonsense": 1}')], [400, here, json('{"name": ')], [400, here, json('[]')]);
        tries.push([413, here, json(`{"name": "${'x'.repeat(3 * 1024 * 1024)}"}`)]);
        tries.push([415, here, json(example, { 'content-type': 'text/plain' })]);
        tries.push([415, here, json(example, { 'content-encoding': 'nonsense' })]);
        tries.push([415, here, json(example, { 'content-type': 'application/json; charset=nonsense' })]);
        if (!requestBody.content['multipart/form-data']) {
          const form = new FormData();
          form.set('name', 'a');
          tries.push([415, here, { body: form, headers: { 'if-match': '"1"' } }]);
        }
      }
      for (const [expected, at, init, token] of tries) {
        const answer = await ask(method, at, init, token);
        const text = await answer.text();
        const what = [name, at.slice(0, 200), init?.headers, text.slice(0, 300)];
        expect([expected, ...what]).toEqual([answer.status, ...what]);
        expect(text).not.toMatch(/sqlite|sequelize|node_modules|\/work\/|\.ts|at \w+ \(/i);
        held(name, answer.status, answer.headers.get('content-type') ?? '', JSON.parse(text));
      }
    }
    // What only a thing that is there can refuse.
    const set = OPERATIONS.find((o) => o.name === 'createSet')!.example!;
    const path = `/api/projects/${project.id}/sets`;
    const made = (await (await ask('post', path, json(JSON.stringify(set)))).json()) as { id: string };
    for (const [status, name, method, at, init] of [
      [409, 'createSet', 'post', path, json(JSON.stringify(set))],
      [412, 'deleteSet', 'delete', `/api/sets/${made.id}`, { headers: { 'if-match': '"7"' } }],
      [428, 'deleteSet', 'delete', `/api/sets/${made.id}`, {}],
      [
        412,
        'changeSet',
        'put',
        `/api/sets/${made.id}`,
        json(JSON.stringify({ ...set, name: 'b' }), { 'if-match': '"7"' }),
      ],
    ] as const) {
      const answer = await ask(method, at, init);
      expect([name, answer.status]).toEqual([name, status]);
      held(name, status, answer.headers.get('content-type') ?? '', await answer.json());
    }
  });

  it('is a page, too, which asks nothing of the network', async () => {
    const page = await (await ask('get', '/api/docs')).text();
    const files = [...page.matchAll(/(?:src|href)="([^"]+)"/g)].map(([, at = '']) => at);
    expect(files.length).toBeGreaterThan(3);
    for (const file of files) {
      expect(file).not.toMatch(/^(https?:)?\/\//);
      expect(
        (await ask('get', new URL(file, `${address}/api/docs/`).pathname.replace('/docs/docs', '/docs'))).status,
      ).toBe(200);
    }
  });
});

it('a client that asks too often is told to wait', async () => {
  const other = await serve(newFile(), { requests: 20 });
  await other.app.listen(0, '127.0.0.1');
  const { port } = other.app.getHttpServer().address() as AddressInfo;
  const answers = await Promise.all(
    Array.from({ length: 30 }, () => fetch(`http://127.0.0.1:${String(port)}/api/projects`)),
  );
  expect(answers.map((a) => a.status).filter((s) => s === 429)).toHaveLength(10);
  const late = answers.find((a) => a.status === 429)!;
  expect(Number(late.headers.get('retry-after'))).toBeGreaterThan(0);
  held('listProjects', 429, late.headers.get('content-type')!, await late.json());
  await other.close();
});
