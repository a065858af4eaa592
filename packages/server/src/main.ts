import 'reflect-metadata';
import { mkdir } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { pino } from 'pino';
import { createApp } from './app.ts';
import { LogFile } from './log-file.ts';
import { readOptions, type ServerOptions } from './options.ts';
import { makeDatabase } from './seed/seed.ts';
import { FolderTaken, lockFolder } from './storage/lock.ts';
import { purge } from './storage/purge.ts';
import { openDatabase } from './storage/storage.module.ts';
import { WriteQueue } from './storage/write-queue.ts';

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

const { port, data, host } = options();
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
const database = join(folder, 'estela.sqlite');
const seeded = await makeDatabase(database, fileURLToPath(new URL('../../../demo/', import.meta.url)), log).catch(
  (error: unknown) => stop(`The demo project cannot be made: ${String(error)}`),
);
if (seeded > 0) console.log(`Made the demo project Glasshouse Nine with ${String(seeded)} materials.`);
const sequelize = await openDatabase(database).catch((error: unknown) =>
  stop(`The database in ${folder} cannot be opened: ${String(error)}`),
);
const web = fileURLToPath(new URL('../../web/dist', import.meta.url));
const app = await createApp({ sequelize, log, web, hosts: ['127.0.0.1', 'localhost', '[::1]', host] });

/** At the start and every few hours; where the disk is full another time will do. */
const tidy = (): void => {
  void app
    .get(WriteQueue)
    .run(() => purge(sequelize, new Date()))
    .catch((error: unknown) => {
      log.error({ err: error }, 'what may go could not be dropped');
    });
};
tidy();
setInterval(tidy, 6 * 3600 * 1000).unref();

await app.listen(port, host).catch((error: unknown) => {
  const taken = error instanceof Error && 'code' in error && error.code === 'EADDRINUSE';
  return stop(
    taken
      ? `Port ${String(port)} is taken. Stop what uses it, or start on another: npm start -- --port ${String(port + 1)}`
      : `The server cannot listen: ${String(error)}`,
  );
});
const server = app.getHttpServer();
// Longer than a page stays still between two requests: Node's 5 s now and then closes a connection under a request just
// sent.
server.keepAliveTimeout = 120_000;
console.log(`Estela is at http://${host}:${String(port)}`);

let closing = false;
const close = (): void => {
  if (closing) return;
  closing = true;
  // Open connections must not hold the process up, and neither may anything else.
  setTimeout(() => process.exit(0), 2000).unref();
  void (async () => {
    try {
      server.close();
      server.closeIdleConnections();
      await app.close();
      await sequelize.close();
      await logFile.close();
      await unlock();
    } finally {
      process.exit(0);
    }
  })();
};
process.on('SIGINT', close);
process.on('SIGTERM', close);
