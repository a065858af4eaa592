import { dirname } from 'node:path';
import { Sequelize, type Transaction } from 'sequelize';
import sqlite3 from 'sqlite3';
import { migrate } from './migrations.ts';
import { tablesOf, type Tables } from './models.ts';

/** One open database: its tables, and transactions over them. */
export class Database implements Tables {
  declare readonly projects: Tables['projects'];
  declare readonly materials: Tables['materials'];
  declare readonly revisions: Tables['revisions'];
  declare readonly blobs: Tables['blobs'];
  declare readonly parts: Tables['parts'];
  declare readonly sources: Tables['sources'];
  declare readonly meshes: Tables['meshes'];
  declare readonly sets: Tables['sets'];
  declare readonly bakes: Tables['bakes'];
  declare readonly bands: Tables['bands'];
  declare readonly bakeImages: Tables['bakeImages'];

  constructor(
    readonly sequelize: Sequelize,
    /** The folder that its file is in. */
    readonly folder: string,
  ) {
    Object.assign(this, tablesOf(sequelize));
  }

  transaction<T>(act: (transaction: Transaction) => Promise<T>): Promise<T> {
    return this.sequelize.transaction(act);
  }

  close(): Promise<void> {
    return this.sequelize.close();
  }
}

/** Milliseconds that a connection waits for another process, such as a backup, to let go of the database. */
const BUSY_TIMEOUT = 20_000;

/** A connection that waits. Sequelize opens one for each transaction, and has no setting for it. */
class WaitingConnection extends sqlite3.Database {
  constructor(file: string, mode: number, opened: (error: Error | null) => void) {
    super(file, mode, opened);
    this.configure('busyTimeout', BUSY_TIMEOUT);
  }
}

/** Opens a database file, and makes its tables or brings them up to date. */
export async function openDatabase(file: string): Promise<Database> {
  const sequelize = new Sequelize({
    dialect: 'sqlite',
    dialectModule: { ...sqlite3, Database: WaitingConnection },
    storage: file,
    logging: false,
  });
  await sequelize.query('PRAGMA journal_mode = WAL');
  await migrate(sequelize);
  return new Database(sequelize, dirname(file));
}
