// Workers that sleep instead of computing, many in a process: they take chunks, wait, and hand in bands that were
// computed once.
import { randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { setTimeout as pause } from 'node:timers/promises';
import { deflateBand } from '@estela/codecs/files';
import { bakePlan, bandMaker, check, parse, type Band } from '@estela/core';
import { BakeThreads } from '../../packages/server/src/bakes/bake-threads.ts';
import type { ChunkJob } from '../../packages/server/src/bakes/queue/chunk-job.ts';
import { connectRedis } from '../../packages/server/src/bakes/queue/redis.ts';
import { ChunkWorker } from '../../packages/server/src/worker/chunk-worker.ts';
import { ServerClient } from '../../packages/server/src/worker/server-client.ts';

const [, , redis = '', server = '', count = '1', seconds = '1'] = process.argv;
const BUILD = readFileSync(new URL('../../packages/server/dist/build-id.txt', import.meta.url), 'utf8').trim();

/** Bands of one frame: the materials of this load stand still. */
const frames = new Map<string, readonly Band[]>();
function bandsOf({ bakeId, text, recipe, first, end }: ChunkJob): Band[] {
  let frame = frames.get(bakeId);
  if (!frame) {
    const program = check(parse(text));
    const plan = bakePlan(program, recipe);
    const own = plan.bands.findIndex((band) => band.last) + 1;
    const make = bandMaker(program, plan, () => undefined, deflateBand);
    frames.set(bakeId, (frame = Array.from({ length: own }, (_, i) => make(i))));
  }
  const bands = frame;
  return Array.from({ length: end - first }, (_, i) => bands[(first + i) % bands.length]!);
}

const threads = new BakeThreads(1);
const trial = await threads.run('trial');
await threads.end();
const workers: ChunkWorker[] = [];
for (let i = 0; i < Number(count); i++) {
  const worker = new ChunkWorker({
    client: new ServerClient(server, randomUUID(), undefined),
    redis: await connectRedis(redis, true),
    facts: { name: `sleeper ${String(process.pid)}-${String(i)}`, jobs: 1, build: BUILD, trial },
    async compute(job, signal) {
      await pause(Number(seconds) * 1000, undefined, { signal });
      return bandsOf(job);
    },
    say: () => undefined,
  });
  await worker.start();
  workers.push(worker);
}
console.log('ready');
process.on('SIGTERM', () => {
  void Promise.all(workers.map((worker) => worker.stop())).then(() => process.exit(0));
});
