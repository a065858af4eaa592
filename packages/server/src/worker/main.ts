import { randomUUID } from 'node:crypto';
import { buildId } from '../build-id.ts';
import { connectRedis } from '../bakes/queue/redis.ts';
import { BandComputer } from './band-computer.ts';
import { ChunkWorker } from './chunk-worker.ts';
import { FileCache } from './image-cache.ts';
import { readWorkerOptions, type WorkerOptions } from './options.ts';
import { Refused, ServerClient } from './server-client.ts';

/** Most milliseconds in which a worker that is told to stop ends. */
const PATIENCE = 9000;

function stop(message: string): never {
  console.error(message);
  process.exit(1);
}
const sentence = (error: unknown): string => (error instanceof Error ? error.message : String(error));

function options(): WorkerOptions {
  try {
    return readWorkerOptions(process.argv.slice(2), process.env);
  } catch (error) {
    return stop(sentence(error));
  }
}

const { redis: address, server, token, jobs, name, cache, cacheBytes } = options();
const client = new ServerClient(server, randomUUID(), token);
const files = new FileCache(cache, cacheBytes, (hash) => client.blob(hash, AbortSignal.timeout(30 * 60_000)));
const computer = new BandComputer(files, jobs);
const redis = await connectRedis(address, true).catch((error: unknown) => stop(sentence(error)));
redis.on('close', () => {
  console.log('Redis cannot be reached; waiting for it.');
});
const worker = new ChunkWorker({
  client,
  redis,
  facts: { name, jobs, build: buildId(), trial: await computer.trial() },
  compute: (job, signal) => computer.bands(job, signal),
  say: (words) => {
    console.log(words);
  },
});
await worker
  .start()
  .catch((error: unknown) =>
    stop(
      error instanceof Refused
        ? `The server refuses this worker. ${error.message}`
        : `The server at ${server} cannot be reached: ${causeOf(error)}.`,
    ),
  );
for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.on(signal, () => {
    setTimeout(() => process.exit(0), PATIENCE).unref();
    void worker.stop();
  });
const why = await worker.over;
if (why !== undefined) console.error(`This worker stopped. ${why}`);
process.exit(why === undefined ? 0 : 1);

/** What is behind an error of the network. */
function causeOf(error: unknown): string {
  const cause = error instanceof Error ? error.cause : undefined;
  return cause instanceof Error && cause.message !== '' ? cause.message : sentence(error);
}
