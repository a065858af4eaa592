import { randomBytes } from 'node:crypto';
import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Redis } from 'ioredis';
import { why } from '../../http/wording.ts';

/** Milliseconds in which Redis must answer. */
const PATIENCE = 3000;

/** An address without its password. */
export const shownAddress = (url: string): string => {
  const { protocol, host } = new URL(url);
  return `${protocol}//${host}`;
};

/**
 * Connects to Redis; from then on the connection is made anew whenever it is lost. Throws a sentence where Redis cannot
 * be reached at first. `waits` keeps what is asked meanwhile, else it fails at once.
 */
export async function connectRedis(url: string, waits: boolean): Promise<Redis> {
  const redis = new Redis(url, {
    maxRetriesPerRequest: null,
    enableOfflineQueue: waits,
    lazyConnect: true,
    connectTimeout: PATIENCE,
    // A line that was cut says nothing: without this it is found out when the system gives up, minutes later. Longer
    // than a worker waits for its next chunk in one go.
    socketTimeout: 5 * PATIENCE,
    retryStrategy: (times) => Math.min(times * 100, 1000),
  });
  let cause: string = why.noAnswer;
  // Without a listener each lost connection would end the process; what it means is told elsewhere.
  redis.on('error', (error: Error) => (cause = error.message || cause));
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<never>((_, no) => (timer = setTimeout(no, PATIENCE, new Error(''))));
  try {
    await Promise.race([redis.connect().then(() => redis.ping()), late]);
  } catch (error) {
    redis.disconnect();
    const said =
      error instanceof Error && error.message !== '' && !/closed/i.test(error.message) ? error.message : cause;
    throw new Error(why.redisAway(shownAddress(url), plain(said)));
  } finally {
    clearTimeout(timer);
  }
  return redis;
}

/** What Redis, or who answers in its place, says, for a person. */
function plain(said: string): string {
  if (said.startsWith('NOAUTH')) return why.needsPassword;
  if (said.startsWith('WRONGPASS')) return why.wrongPassword;
  if (/RESP|protocol/i.test(said)) return why.notRedis;
  return said.replace(/\.+$/, '');
}

/** Whether Redis answers now. */
export async function answers(redis: Redis): Promise<boolean> {
  if (redis.status !== 'ready') return false;
  const late = new Promise<false>((no) => setTimeout(no, PATIENCE, false).unref());
  return Promise.race([
    redis.ping().then(
      () => true,
      () => false,
    ),
    late,
  ]);
}

/** The name of the queue of a server, told by its data folder; made where there is none. */
export async function queueName(folder: string): Promise<string> {
  const file = join(folder, 'estela.queue');
  const kept = await readFile(file, 'utf8').catch(() => '');
  if (/^estela-[0-9a-f]{16}$/.test(kept.trim())) return kept.trim();
  const name = `estela-${randomBytes(8).toString('hex')}`;
  await writeFile(file, `${name}\n`);
  return name;
}
