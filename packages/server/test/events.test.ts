import { once } from 'node:events';
import { get, type IncomingMessage } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, expect, it } from '@jest/globals';
import type { Material, Project } from '@estela/contract';
import { EventsService } from '../src/events/events.service.ts';
import { serve, type Served } from './support.ts';

let served: Served;
let address: string;
beforeAll(async () => {
  served = await serve();
  await served.app.listen(0, '127.0.0.1');
  address = `http://127.0.0.1:${String((served.app.getHttpServer().address() as AddressInfo).port)}/api`;
});
afterAll(async () => {
  served.app.get(EventsService).end();
  await served.close();
});

const post = async <T>(path: string, body: object): Promise<T> =>
  (await (
    await fetch(`${address}/${path}`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(body),
    })
  ).json()) as T;

interface Stream {
  readonly answer: IncomingMessage;
  readonly said: () => string;
  /** Waits until something was said. */
  readonly until: (words: string) => Promise<void>;
  readonly close: () => void;
}
async function follow(project: string, last?: string): Promise<Stream> {
  const request = get(`${address}/projects/${project}/events`, {
    headers: last === undefined ? {} : { 'last-event-id': last },
  });
  const [answer] = (await once(request, 'response')) as [IncomingMessage];
  let words = '';
  answer.setEncoding('utf8').on('data', (part: string) => (words += part));
  answer.on('error', () => undefined);
  return {
    answer,
    said: () => words,
    async until(wanted) {
      while (!words.includes(wanted)) await new Promise((done) => setTimeout(done, 10));
    },
    close: () => request.destroy(),
  };
}

it('all changes of a project are told to all who follow it, and to nobody else', async () => {
  const [mine, other] = [
    await post<Project>('projects', { name: 'A' }),
    await post<Project>('projects', { name: 'B' }),
  ];
  const [one, two, away] = [await follow(mine.id), await follow(mine.id), await follow(other.id)];
  expect(one.answer.headers['content-type']).toMatch(/^text\/event-stream/);
  const material = await post<Material>(`projects/${mine.id}/materials`, { text: 'out color = 0.5\n' });
  for (const stream of [one, two])
    await stream.until(
      `data: ${JSON.stringify({ projectId: mine.id, kind: 'material', id: material.id, version: 1, change: 'made' })}`,
    );
  await fetch(`${address}/materials/${material.id}`, { method: 'DELETE', headers: { 'if-match': '*' } });
  await one.until('"change":"deleted"');
  expect(away.said()).not.toContain('event: change');
  for (const stream of [one, two, away]) stream.close();
});

it('who was away for a moment is told what was missed; who asks for more is told to read anew', async () => {
  const { id } = await post<Project>('projects', { name: 'C' });
  const first = await follow(id);
  await first.until('event: ready');
  const [, last] = /id: (\S+)/.exec(first.said())!;
  first.close();
  const made = [];
  for (let i = 0; i < 3; i++) made.push((await post<Material>(`projects/${id}/materials`, { text: '' })).id);
  const again = await follow(id, last);
  await again.until('event: ready');
  expect([...again.said().matchAll(/"id":"([^"]+)"/g)].map((m) => m[1])).toEqual(made);
  expect(again.said()).not.toContain('event: reset');
  const unknown = await follow(id, 'another-run-12');
  await unknown.until('event: reset');
  // A server that ends closes them.
  const ended = once(again.answer, 'end');
  served.app.get(EventsService).end();
  await ended;
  expect((await fetch(`${address}/projects/00000000-0000-4000-8000-000000000000/events`)).status).toBe(404);
});
