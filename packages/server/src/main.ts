import 'reflect-metadata';
import { existsSync } from 'node:fs';
import { mkdir, readFile, rm, writeFile } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { pino } from 'pino';
import { tokenHashFor } from './access/token.ts';
import { createApp } from './app.ts';
import { EventsService } from './events/events.service.ts';
import { LogFile } from './log-file.ts';
import { isOpen, LOOPBACK, readOptions, type ServerOptions } from './options.ts';
import { makeDatabase } from './seed/seed.ts';
import { FolderTaken, lockFolder } from './storage/lock.ts';
import { purge, thinRevisions } from './storage/purge.ts';
import { DATABASE, faultIn } from './storage/backup.ts';
import { openDatabase } from './storage/database.ts';
import { WriteQueue } from './storage/write-queue.ts';
import { BakesService } from './bakes/bakes.service.ts';
import { connectRedis, queueName, shownAddress } from './bakes/queue/redis.ts';
import { Uploads } from './uploads/uploads.ts';

function stop(message: string): never {
  console.error(message);
  process.exit(1);
}

function options(): ServerOptions {
  try {
    return readOptions(process.argv.slice(2), process.env);
  } catch (error) {
    return stop(error instanceof Error ? error.message : String(error));
  }
}

const { port, data, host, allowHosts, token, tls, requests, jobs, redis } = options();
const folder = resolve(data);
await mkdir(folder, { recursive: true }).catch((error: unknown) =>
  stop(`The data directory ${folder} cannot be made: ${String(error)}`),
);
const unlock = await lockFolder(folder).catch((error: unknown) =>
  stop(
    error instanceof FolderTaken ? error.message : `The data directory ${folder} cannot be written: ${String(error)}`,
  ),
);
const logFile = new LogFile(join(folder, 'estela.log'));
const log = pino({ level: process.env.ESTELA_LOG ?? 'info' }, logFile);
/** Connects to Redis, or says what to do. */
const connected = (url: string): ReturnType<typeof connectRedis> =>
  connectRedis(url, false).catch((error: unknown) =>
    stop(
      `${error instanceof Error ? error.message : String(error)} Start it (redis-server), or start Estela without --redis to bake in its own threads.`,
    ),
  );
const queue = redis === undefined ? undefined : { redis: await connected(redis), queue: await queueName(folder), log };
const file = join(folder, DATABASE);
// Stands while the server runs: who finds it at a start follows one that did not end by itself.
const running = join(folder, 'estela.running');
// A database that was not finished is made anew; one that is broken is left alone.
const fault = existsSync(running) && existsSync(file) ? await faultIn(file) : undefined;
if (fault !== undefined)
  stop(
    `The database in ${folder} is damaged: ${fault}. Nothing was changed. Restore a backup into a new folder (npm run restore -- --from FILE --data FOLDER) and start on that.`,
  );
await writeFile(running, `${String(process.pid)}\n`).catch((error: unknown) =>
  stop(`The data directory ${folder} cannot be written: ${String(error)}`),
);
const seeded = await makeDatabase(file, fileURLToPath(new URL('../../../demo/', import.meta.url)), log).catch(
  (error: unknown) => stop(`The demo project cannot be made: ${String(error)}`),
);
if (seeded > 0) console.log(`Made the demo project Glasshouse Nine with ${String(seeded)} materials.`);
const database = await openDatabase(file).catch((error: unknown) =>
  stop(`The database in ${folder} cannot be opened: ${String(error)}`),
);
const web = fileURLToPath(new URL('../../web/dist', import.meta.url));
const open = isOpen({ host, allowHosts }) || token !== undefined;
const tokenHash = open
  ? await tokenHashFor(folder, token, (made) => {
      console.log(`Access token, shown only this once: ${made}`);
    })
  : undefined;
const pem = (path: string): Promise<Buffer> =>
  readFile(path).catch((error: unknown) => stop(`${path} cannot be read: ${String(error)}`));
const certificate = tls && { cert: await pem(tls.cert), key: await pem(tls.key) };
const hosts = [...LOOPBACK, host, ...allowHosts];
const app = await createApp({
  database,
  log,
  web,
  hosts,
  tokenHash,
  tls: certificate,
  requests,
  jobs,
  redis: queue,
}).catch((error: unknown) => stop(`The server cannot start: ${String(error)}`));

// What was being sent when a server was killed.
await app.get(Uploads).clear();
void app
  .get(BakesService)
  .resume()
  .catch((error: unknown) => {
    log.error({ err: error }, 'bakes could not be resumed');
  });

/** At the start and every hour; where the disk is full another time will do. */
const tidy = (): void => {
  void app
    .get(WriteQueue)
    .run(async () => {
      await purge(database, new Date());
      await thinRevisions(database, new Date());
    })
    .catch((error: unknown) => {
      log.error({ err: error }, 'unused data could not be deleted');
    });
};
tidy();
setInterval(tidy, 3600 * 1000).unref();

await app.listen(port, host).catch((error: unknown) => {
  const taken = error instanceof Error && 'code' in error && error.code === 'EADDRINUSE';
  return stop(
    taken
      ? `Port ${String(port)} is in use. Stop the program that uses it, or use another port: npm start -- --port ${String(port + 1)}`
      : `The server cannot listen: ${String(error)}`,
  );
});
const server = app.getHttpServer();
// Longer than a page stays still between two requests: Node's 5 s now and then closes a connection under a request just
// sent.
server.keepAliveTimeout = 120_000;
console.log(`Estela is at ${tls ? 'https' : 'http'}://${host}:${String(port)}`);
if (redis !== undefined) console.log(`Bakes are computed by workers, connected through ${shownAddress(redis)}.`);

/** Most milliseconds that what is under way gets to end. */
const PATIENCE = 8000;

let closing = false;
/** Takes no more requests, lets those under way and their writes end, and closes the database. */
const close = (): void => {
  if (closing) return;
  closing = true;
  setTimeout(() => {
    log.warn('requests did not finish in time');
    process.exit(0);
  }, PATIENCE).unref();
  // A connection is only idle once its answer is sent.
  const idle = setInterval(() => {
    server.closeIdleConnections();
  }, 50);
  void (async () => {
    try {
      app.get(EventsService).end();
      await new Promise((done) => server.close(done));
      clearInterval(idle);
      await app.get(WriteQueue).end();
      await app.close();
      await database.close();
      await logFile.close();
      await rm(running, { force: true });
      await unlock();
    } finally {
      process.exit(0);
    }
  })();
};
process.on('SIGINT', close);
process.on('SIGTERM', close);
