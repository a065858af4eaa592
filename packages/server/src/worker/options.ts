import { availableParallelism, hostname, tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { redisAddress, wholeNumber } from '../options.ts';

export interface WorkerOptions {
  readonly redis: string;
  /** Address of the server, without a slash at its end. */
  readonly server: string;
  readonly token: string | undefined;
  /** Threads that compute. */
  readonly jobs: number;
  /** As the page shows it. */
  readonly name: string;
  /** Folder of the images that are kept, and the most bytes of it. */
  readonly cache: string;
  readonly cacheBytes: number;
}

/**
 * What a worker is started with, from flags, else from ESTELA_REDIS, ESTELA_SERVER and ESTELA_TOKEN. Throws an Error with
 * a plain sentence.
 */
export function readWorkerOptions(
  args: readonly string[],
  environment: Readonly<Record<string, string | undefined>>,
): WorkerOptions {
  const text = { type: 'string' } as const;
  const { values } = parseArgs({
    args: [...args],
    options: { redis: text, server: text, token: text, jobs: text, name: text, cache: text, 'cache-mb': text },
  });
  const redis = values.redis ?? environment.ESTELA_REDIS;
  if (redis === undefined) throw new Error('Say where Redis is: --redis redis://HOST:6379');
  const server = values.server ?? environment.ESTELA_SERVER;
  if (server === undefined) throw new Error('Say where the server is: --server http://HOST:4600');
  if (!URL.canParse(server) || !/^https?:\/\/[^/]/.test(server))
    throw new Error(`--server takes an address such as http://127.0.0.1:4600, not '${server}'.`);
  const name = (values.name ?? hostname()).trim();
  if (!/^[^"\n\r]{1,200}$/.test(name)) throw new Error('--name takes a name on one line, without quotes.');
  const megabytes = wholeNumber(values['cache-mb'], '--cache-mb takes how many megabytes of images are kept');
  return {
    redis: redisAddress(redis),
    server: server.replace(/\/+$/, ''),
    token: values.token ?? environment.ESTELA_TOKEN,
    jobs: wholeNumber(values.jobs, '--jobs takes how many threads bake') ?? availableParallelism(),
    name,
    cache: values.cache ?? join(tmpdir(), 'estela-worker'),
    cacheBytes: (megabytes ?? 2048) * 1024 ** 2,
  };
}
