import 'reflect-metadata';
import { mkdir } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { pino } from 'pino';
import { createApp } from './app.ts';
import { readOptions, type ServerOptions } from './options.ts';
import { seedDemo } from './seed/seed.ts';
import { openDatabase } from './storage/storage.module.ts';

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
await mkdir(data, { recursive: true }).catch((error: unknown) => stop(`The data directory ${resolve(data)} cannot be made: ${String(error)}`));
const log = pino({ level: process.env.ESTELA_LOG ?? 'info' }, pino.destination({ dest: join(data, 'estela.log'), mkdir: true, sync: false }));
const sequelize = await openDatabase(join(data, 'estela.sqlite')).catch((error: unknown) =>
  stop(`The database in ${resolve(data)} cannot be opened: ${String(error)}`),
);
const web = fileURLToPath(new URL('../../web/dist', import.meta.url));
const app = await createApp({ sequelize, log, web, hosts: ['127.0.0.1', 'localhost', '[::1]', host] });
const seeded = await seedDemo(app, fileURLToPath(new URL('../../../demo/', import.meta.url))).catch((error: unknown) =>
  stop(`The demo project cannot be made: ${String(error)}`),
);
if (seeded > 0) console.log(`Made the demo project Glasshouse Nine with ${String(seeded)} materials.`);

const server = (await app.listen(port, host).catch((error: unknown) => {
  const taken = error instanceof Error && 'code' in error && error.code === 'EADDRINUSE';
  return stop(
    taken
      ? `Port ${String(port)} is taken. Stop what uses it, or start on another: npm start -- --port ${String(port + 1)}`
      : `The server cannot listen: ${String(error)}`,
  );
})) as { close: () => void };
console.log(`Estela is at http://${host}:${String(port)}`);

const close = (): void => {
  server.close();
  void app
    .close()
    .then(() => sequelize.close())
    .then(() => process.exit(0));
  // Open connections must not hold the process up.
  setTimeout(() => process.exit(0), 2000).unref();
};
process.on('SIGINT', close);
process.on('SIGTERM', close);
