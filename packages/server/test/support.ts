import 'reflect-metadata';
import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { pino } from 'pino';
import type { Sequelize } from 'sequelize';
import { createApp } from '../src/app.ts';
import { openDatabase } from '../src/storage/storage.module.ts';

export interface Served {
  readonly app: NestExpressApplication;
  readonly sequelize: Sequelize;
  readonly close: () => Promise<void>;
}

/** A file for a database that is not there yet. */
export const newFile = (): string => join(mkdtempSync(join(tmpdir(), 'estela-api-')), 'estela.sqlite');

/** The server over a database file, not listening. */
export async function serve(file = newFile(), web?: string): Promise<Served> {
  const sequelize = await openDatabase(file);
  const app = await createApp({
    sequelize,
    log: pino({ level: 'silent' }),
    hosts: ['127.0.0.1', 'localhost'],
    ...(web === undefined ? {} : { web }),
  });
  return {
    app,
    sequelize,
    async close() {
      await app.close();
      await sequelize.close();
    },
  };
}
