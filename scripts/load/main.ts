import autocannon, { type Request, type Result } from 'autocannon';
import { randomBytes } from 'node:crypto';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { PNG } from 'pngjs';
import { startServer } from '../../packages/e2e/server.ts';
import { made, peakOf } from './support.ts';
import { workersAtWork } from './workers.ts';

/** Seconds of each kind of work, and the most that may be asked. */
const SECONDS = Math.min(60, Number(process.argv[2] ?? 8));
const WRITERS = 32;
/** Workers that sleep instead of computing. */
const SLEEPERS = 200;
const PORT = 4699;

interface Row {
  readonly what: string;
  readonly rate: number;
  readonly median: number;
  readonly p99: number;
  readonly statuses: string;
  readonly wrong: number;
}

const jsonHeaders = { 'content-type': 'application/json' };
const rows: Row[] = [];

/** Refusals that say what they should: written elsewhere meanwhile, and too many at once. */
const RIGHT = [200, 201, 206, 304, 412, 429];

async function measured(what: string, url: string, connections: number, requests: Request[]): Promise<Result> {
  const result = await autocannon({ url, connections, duration: SECONDS, requests, timeout: 20 });
  const counts = Object.entries(result.statusCodeStats ?? {}).map(([status, { count = 0 }]) => [Number(status), count]);
  rows.push({
    what,
    rate: result.requests.average,
    median: result.latency.p50,
    p99: result.latency.p99,
    statuses: counts.map(([status, count]) => `${String(count)} x ${String(status)}`).join(', '),
    wrong:
      result.errors +
      result.timeouts +
      counts.filter(([status = 0]) => !RIGHT.includes(status)).reduce((sum, [, count = 0]) => sum + count, 0),
  });
  return result;
}

interface Material {
  readonly id: string;
  revision: number;
}

/** A form with one file, as its bytes and its type. */
async function formOf(name: string, bytes: Uint8Array<ArrayBuffer>): Promise<{ body: Buffer; type: string }> {
  const form = new FormData();
  form.set('name', name);
  form.set('file', new Blob([bytes]), name);
  const answer = new Response(form);
  return { body: Buffer.from(await answer.arrayBuffer()), type: answer.headers.get('content-type') ?? '' };
}

const folder = mkdtempSync(join(tmpdir(), 'estela-load-'));
try {
  const server = await startServer(folder, PORT, undefined, ['--requests', '100000000']);
  const api = `${server.address}/api`;
  const project = await made<{ id: string }>(`${api}/projects`, { name: 'Load' });
  const materials: Material[] = [];
  for (let i = 0; i < WRITERS; i++)
    materials.push(await made<Material>(`${api}/projects/${project.id}/materials`, { text: 'out color = 0\n' }));

  let turn = 0;
  // Two of three writers have a material to themselves at any time; the third meets another, and one of them is told.
  const save: Request = {
    method: 'PUT',
    setupRequest(request, context: { material?: Material }) {
      const material = materials[turn++ % materials.length]!;
      context.material = material;
      return {
        ...request,
        path: `/api/materials/${material.id}`,
        headers: { ...jsonHeaders, 'if-match': `"${String(material.revision)}"` },
        body: JSON.stringify({ text: `out color = ${String(turn)} // ${'x'.repeat(2000)}\n` }),
      };
    },
    onResponse(status, body, context: { material?: Material }) {
      const { revision, current } = JSON.parse(body) as { revision?: number; current?: number };
      if (context.material) context.material.revision = revision ?? current ?? context.material.revision;
    },
  };
  await measured(`saves by ${String(WRITERS)} writers`, server.address, WRITERS, [save]);

  const picture = PNG.sync.write(new PNG({ width: 4, height: 4 }));
  const files: { body: Buffer; type: string }[] = [];
  for (let i = 0; i < 16; i++)
    files.push(await formOf('NAME-0000000000', Buffer.concat([picture, randomBytes(1024 * 1024)])));
  let name = 0;
  const upload: Request = {
    method: 'POST',
    path: `/api/projects/${project.id}/sources`,
    setupRequest(request) {
      const { body, type } = files[name % files.length]!;
      // Another name each, as long as the one that stands there.
      const at = body.indexOf('NAME-0000000000');
      const own = Buffer.from(body);
      own.write(`NAME-${String(name++).padStart(10, '0')}`, at);
      return { ...request, headers: { 'content-type': type }, body: own };
    },
  };
  await measured('uploads of 1 MiB by 8', server.address, 8, [upload]);

  const sources = (await (await fetch(`${api}/projects/${project.id}/sources?limit=8`)).json()) as { id: string }[];
  const reads: Request[] = [
    ...materials.slice(0, 8).map(({ id }): Request => ({ method: 'GET', path: `/api/materials/${id}` })),
    { method: 'GET', path: '/api/projects' },
    { method: 'GET', path: `/api/projects/${project.id}/materials?limit=50` },
  ];
  await measured('reads of materials and lists by 32', server.address, 32, reads);
  await measured(
    'reads of pictures of 1 MiB by 8',
    server.address,
    8,
    sources.map(({ id }) => ({ method: 'GET', path: `/api/sources/${id}/content` })),
  );
  await measured('all of it at once, by 32', server.address, 32, [save, upload, ...reads.slice(-6)]);
  const peak = peakOf(server.pid);
  await server.end();

  const limited = await startServer(folder, PORT, undefined, ['--requests', '1000']);
  await measured('reads beyond what one address may ask, by 32', limited.address, 32, [
    { method: 'GET', path: '/api/health' },
  ]);
  await limited.end();

  console.log(`\n${String(SECONDS)} s each; the server's memory at most ${peak.toFixed(0)} MB.\n`);
  console.log('| work | a second | median | p99 | answers | wrong |\n|---|---|---|---|---|---|');
  for (const { what, rate, median, p99, statuses, wrong } of rows)
    console.log(
      `| ${what} | ${rate.toFixed(0)} | ${String(median)} ms | ${String(p99)} ms | ${statuses} | ${String(wrong)} |`,
    );
  const whole = await workersAtWork(SLEEPERS);
  if (!whole || rows.some((row) => row.wrong > 0)) process.exitCode = 1;
} finally {
  rmSync(folder, { recursive: true, force: true });
}
