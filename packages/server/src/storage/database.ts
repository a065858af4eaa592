import { dirname } from 'node:path';
import { Sequelize, type Transaction } from 'sequelize';
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

/** Opens a database file, and makes its tables or brings them up to date. */
export async function openDatabase(file: string): Promise<Database> {
  const sequelize = new Sequelize({ dialect: 'sqlite', storage: file, logging: false });
  await sequelize.query('PRAGMA journal_mode = WAL');
  await migrate(sequelize);
  return new Database(sequelize, dirname(file));
}
