import 'reflect-metadata';
import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { pino } from 'pino';
import { createApp, type AppOptions } from '../src/app.ts';
import { openDatabase, type Database } from '../src/storage/database.ts';

export interface Served {
  readonly app: NestExpressApplication;
  readonly database: Database;
  readonly close: () => Promise<void>;
}

/** A file for a database that is not there yet. */
export const newFile = (): string => join(mkdtempSync(join(tmpdir(), 'estela-api-')), 'estela.sqlite');

/** The server over a database file, not listening. */
export async function serve(file = newFile(), more: Partial<AppOptions> = {}): Promise<Served> {
  const database = await openDatabase(file);
  const app = await createApp({
    database,
    log: pino({ level: 'silent' }),
    hosts: ['127.0.0.1', 'localhost'],
    ...more,
  });
  return {
    app,
    database,
    async close() {
      await app.close();
      await database.close();
    },
  };
}
