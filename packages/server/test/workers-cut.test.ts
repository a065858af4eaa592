import { execFileSync, spawnSync } from 'node:child_process';
import { setTimeout as pause } from 'node:timers/promises';
import { afterAll, beforeAll, expect, it } from '@jest/globals';
import type { Bake, BakeWorker } from '@estela/contract';
import { bakedByCli, TEXT } from './baking.ts';
import { build, endAll, ready, seeded, startRedis, startWorker, until, withDemo } from './running.ts';

/** Machines of this test: network namespaces with a line to each worker, which can be cut. */
const HOUSE = `estela-${String(process.pid)}`;
const NEAR = `${HOUSE}-near`;
const FAR = `${HOUSE}-far`;
const ip = (...args: string[]): void => {
  execFileSync('ip', args, { stdio: 'pipe' });
};
/** Whether this machine lets us make such. */
const allowed = spawnSync('ip', ['netns', 'add', HOUSE]).status === 0;
const whereAllowed = allowed ? it : it.skip;

beforeAll(async () => {
  await build('cli');
  await (await ready(seeded)).end('SIGTERM');
  if (!allowed) return;
  ip('-n', HOUSE, 'link', 'set', 'lo', 'up');
  for (const [i, name] of [NEAR, FAR].entries()) {
    ip('netns', 'add', name);
    const line = `line${String(i)}`;
    ip('-n', HOUSE, 'link', 'add', line, 'type', 'veth', 'peer', 'name', 'eth0', 'netns', name);
    for (const [where, device, end] of [
      [HOUSE, line, 1],
      [name, 'eth0', 2],
    ] as const) {
      ip('-n', where, 'address', 'add', `10.77.${String(i)}.${String(end)}/24`, 'dev', device);
      ip('-n', where, 'link', 'set', device, 'up');
    }
  }
}, 240_000);
afterAll(async () => {
  await endAll();
  for (const name of [HOUSE, NEAR, FAR]) spawnSync('ip', ['netns', 'delete', name]);
});

const TOKEN = 'a-token-of-three-machines';
/** A line of shell by which a program comes to run in a namespace. */
const within = (name: string): string => `exec ip netns exec ${name} "$0" "$@"`;

whereAllowed(
  'a worker that is cut off for a while does not hold up a bake, and helps again afterwards',
  async () => {
    const redis = await startRedis(6379, 'cut', ['--bind', '0.0.0.0', '--protected-mode', 'no'], within(HOUSE));
    const server = await ready(withDemo('cut'), {
      port: 4600,
      args: ['--host', '0.0.0.0', '--token', TOKEN, '--redis', 'redis://127.0.0.1:6379'],
      before: within(HOUSE),
    });
    /** Asks the server from its own machine. */
    const ask = (path: string, body?: object): unknown => {
      const init = {
        method: body ? 'POST' : 'GET',
        headers: { authorization: `Bearer ${TOKEN}`, 'content-type': 'application/json' },
        ...(body ? { body: JSON.stringify(body) } : {}),
      };
      const script = `fetch('http://127.0.0.1:4600/api${path}', ${JSON.stringify(init)}).then(async (r) => console.log(await r.text()))`;
      const said = execFileSync('ip', ['netns', 'exec', HOUSE, process.execPath, '-e', script], { encoding: 'utf8' });
      return JSON.parse(said) as unknown;
    };
    const workers = [NEAR, FAR].map((name, i) => {
      const house = `10.77.${String(i)}.1`;
      const args = ['--redis', `redis://${house}:6379`, '--server', `http://${house}:4600`, '--token', TOKEN];
      return startWorker([...args, '--name', name, '--jobs', '1'], {}, within(name));
    });
    for (const worker of workers) await until(() => worker.said().includes('bakes for'));
    const near = (): BakeWorker => (ask('/workers') as BakeWorker[]).find(({ name }) => name === NEAR)!;
    const { id: project } = ask('/projects', { name: 'Cut' }) as { id: string };
    const { id: material } = ask(`/projects/${project}/materials`, { text: TEXT }) as { id: string };
    const baked = async (count: number, so: (bake: Bake) => boolean): Promise<Bake> => {
      const recipe = { format: 'sequence', size: [192, 192], frames: { count }, samples: 2 };
      const { id } = ask(`/materials/${material}/bakes`, recipe) as Bake;
      for (;;) {
        const one = ask(`/bakes/${id}`) as Bake;
        if (one.state === 'done') return one;
        if (so(one)) ip('-n', HOUSE, 'link', 'set', 'line0', 'down');
        await pause(50);
      }
    };
    const expected = (count: number): string =>
      bakedByCli(`--format sequence --size 192x192 --count ${String(count)} --samples 2`, `cut${String(count)}.zip`);

    // What it had in hand is computed by the other one.
    const one = await baked(120, ({ done }) => done > 8);
    expect(one.file?.hash).toBe(expected(120));
    while (near().state !== 'lost') await pause(200);
    await until(() => workers[0]!.said().includes('cannot be reached'));
    ip('-n', HOUSE, 'link', 'set', 'line0', 'up');
    while (near().state === 'lost') await pause(200);
    // Its lines to Redis, too, are found to be cut, and made anew.
    const before = near().chunks;
    let two: Bake;
    do two = await baked(90, () => false);
    while (near().chunks === before);
    expect(two.file?.hash).toBe(expected(90));
    for (const worker of workers) expect(await worker.end('SIGTERM')).toBe(0);
    await server.end('SIGTERM');
    await redis.end('SIGTERM');
  },
  240_000,
);
