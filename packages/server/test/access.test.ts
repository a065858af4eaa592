import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pino } from 'pino';
import request from 'supertest';
import { Guesses } from '../src/access/guesses.ts';
import { hashOf, tokenHashFor } from '../src/access/token.ts';
import { createApp } from '../src/app.ts';
import { isOpen, readOptions } from '../src/options.ts';
import { openDatabase, type Database } from '../src/storage/database.ts';
import { newFile } from './support.ts';

const TOKEN = 'only-for-the-greenhouse';
let app: NestExpressApplication;
let database: Database;
beforeAll(async () => {
  database = await openDatabase(newFile());
  const log = pino({ level: 'silent' });
  app = await createApp({ database, log, hosts: ['localhost', '127.0.0.1', 'team.example'], tokenHash: hashOf(TOKEN) });
});
afterAll(async () => {
  await app.close();
  await database.close();
});
const agent = () => request(app.getHttpServer());
const cookieFrom = ({ headers }: { readonly headers: unknown }): string =>
  [(headers as Record<string, string | string[] | undefined>)['set-cookie'] ?? []].flat()[0]!;

describe('a server with a token', () => {
  it('lets in who shows it, under its names and by address, and tells others only that it is there', async () => {
    const bearer = `Bearer ${TOKEN}`;
    await agent().get('/api/projects').set('Authorization', bearer).expect(200);
    await agent().get('/api/projects').set('Authorization', bearer).set('Host', 'team.example:4600').expect(200);
    await agent().get('/api/projects').set('Authorization', bearer).set('Host', '192.0.2.7:4600').expect(200);
    await agent().get('/api/projects').set('Authorization', bearer).set('Host', 'evil.example').expect(403);
    await agent().get('/api/health').expect(200);
    const refused = await agent()
      .get('/api/projects')
      .expect(401)
      .expect('WWW-Authenticate', 'Bearer')
      .expect('X-Request-Id', /./);
    expect(refused.body).toMatchObject({ type: '/problems/unauthorized', status: 401 });
    await agent().post('/api/projects').send({ name: 'X' }).expect(401);
    const page = await agent().get('/materials/x').expect(401).expect('Content-Type', /html/);
    expect(page.text).toContain('needs an access token');
  });

  it('stands a cookie for a token that was opened once, and takes it out of the address', async () => {
    const opened = await agent().get(`/materials/x?token=${TOKEN}`).expect(303).expect('Location', '/materials/x');
    const cookie = cookieFrom(opened);
    expect(cookie).toMatch(/HttpOnly; SameSite=Strict/);
    expect(cookie).not.toContain(TOKEN);
    const [pair] = cookie.split(';') as [string];
    await agent().get('/api/projects').set('Cookie', `other=1; ${pair}`).expect(200);
    await agent().get('/api/projects').set('Cookie', `${pair}x`).expect(401);
    // A page elsewhere has the cookie, and still may not.
    await agent().get('/api/projects').set('Cookie', pair).set('Origin', 'http://evil.example').expect(403);
  });

  it('answers wrong tokens later and later, and then not for a minute; right ones always', async () => {
    const guess = () => agent().get('/api/projects').set('Authorization', 'Bearer wrong');
    const began = Date.now();
    for (let i = 0; i < 3; i++) await guess().expect(401);
    expect(Date.now() - began).toBeGreaterThan(690);
    const answers = await Promise.all(Array.from({ length: 30 }, () => guess()));
    expect(answers.filter((a) => a.status === 429 && a.headers['retry-after'] === '60').length).toBeGreaterThan(5);
    await agent().get(`/?token=${TOKEN}`).expect(303);
    await agent().get('/api/projects').set('Authorization', `Bearer ${TOKEN}`).expect(200);
    const guesses = new Guesses();
    expect([guesses.wrong('a', 0), guesses.wrong('a', 1), guesses.wrong('b', 2)]).toEqual([100, 200, 100]);
    for (let i = 0; i < 18; i++) guesses.wrong('a', 3);
    expect([guesses.isShut('a', 4), guesses.isShut('b', 4), guesses.isShut('a', 61_000)]).toEqual([true, false, false]);
  }, 60_000);
});

describe('a token', () => {
  it('is made once for a folder, told once, and kept as its hash', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'estela-token-'));
    const told: string[] = [];
    const made = await tokenHashFor(folder, undefined, (t) => told.push(t));
    expect(await tokenHashFor(folder, undefined, (t) => told.push(t))).toBe(made);
    expect(told).toHaveLength(1);
    expect(hashOf(told[0]!)).toBe(made);
    expect(readFileSync(join(folder, 'access.json'), 'utf8')).not.toContain(told[0]!);
    expect(await tokenHashFor(folder, TOKEN, () => undefined)).toBe(hashOf(TOKEN));
  });

  it('is asked for wherever others than this machine come in', () => {
    const of = (...args: string[]): boolean => isOpen(readOptions(args, {}));
    expect([of(), of('--host', '127.0.0.5'), of('--host', 'localhost')]).toEqual([false, false, false]);
    expect([of('--host', '0.0.0.0'), of('--host', '::'), of('--allow-host', 'a.example')]).toEqual([true, true, true]);
    expect(() => readOptions(['--token', 'short'], {})).toThrow('at least 16');
    expect(() => readOptions(['--tls-cert', 'a'], {})).toThrow('go together');
    expect(() => readOptions(['--allow-host', 'a.example:80'], {})).toThrow('without a port');
    expect(readOptions([], { ESTELA_ALLOW_HOST: 'a.example, B.example' }).allowHosts).toEqual([
      'a.example',
      'b.example',
    ]);
  });
});
