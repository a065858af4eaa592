import { constants, existsSync } from 'node:fs';
import { copyFile, mkdir, readdir, rename, rm, stat } from 'node:fs/promises';
import { dirname, join, resolve } from 'node:path';
import sqlite3 from 'sqlite3';

/** A backup or a restore that cannot be done, in a plain sentence. */
export class BackupRefused extends Error {}

/** The database in a data folder. */
export const DATABASE = 'estela.sqlite';

const opened = (file: string, mode: number): Promise<sqlite3.Database> =>
  new Promise((done, failed) => {
    const database: sqlite3.Database = new sqlite3.Database(file, mode, (error) => {
      if (error) failed(error);
      else done(database);
    });
  });
const closed = (database: sqlite3.Database): Promise<void> =>
  new Promise((done) => {
    database.close(() => {
      done();
    });
  });
const ask = (database: sqlite3.Database, sql: string, ...values: unknown[]): Promise<Record<string, unknown>[]> =>
  new Promise((done, failed) => {
    database.all(sql, values, (error, rows) => {
      if (error) failed(error);
      else done(rows as Record<string, unknown>[]);
    });
  });

/** What is wrong with a database file, in SQLite's own words; undefined where it is whole. */
export async function faultIn(file: string): Promise<string | undefined> {
  let database: sqlite3.Database | undefined;
  try {
    database = await opened(file, sqlite3.OPEN_READONLY);
    const [check] = await ask(database, 'PRAGMA integrity_check(1)');
    const [told] = Object.values(check ?? {});
    if (told !== 'ok') return String(told);
    const [broken] = await ask(database, 'PRAGMA foreign_key_check');
    if (broken) return `a row of ${String(broken.table)} has no parent`;
    const tables = await ask(database, "SELECT name FROM sqlite_master WHERE name = 'projects'");
    return tables.length === 0 ? 'it has no projects table' : undefined;
  } catch (error) {
    return error instanceof Error ? error.message : String(error);
  } finally {
    if (database) await closed(database);
  }
}

/**
 * Copies the database of a data folder to a new file, also while a server writes to it: SQLite's VACUUM INTO reads all
 * of it at one moment. What is written is read through before it gets its name. Gives its size in bytes.
 */
export async function backup(folder: string, to: string): Promise<number> {
  const from = join(folder, DATABASE);
  if (!existsSync(from)) throw new BackupRefused(`There is no database in ${resolve(folder)}.`);
  if (existsSync(to)) throw new BackupRefused(`${to} is there already; name a new file.`);
  if (!existsSync(dirname(resolve(to)))) throw new BackupRefused(`The folder of ${to} is not there.`);
  const draft = `${to}.part`;
  await rm(draft, { force: true });
  try {
    const database = await opened(from, sqlite3.OPEN_READWRITE);
    try {
      database.configure('busyTimeout', 30_000);
      await ask(database, 'VACUUM INTO ?', draft);
    } finally {
      await closed(database);
    }
    const fault = await faultIn(draft);
    if (fault !== undefined) throw new BackupRefused(`The copy is incomplete: ${fault}.`);
    await rename(draft, to);
  } catch (error) {
    await rm(draft, { force: true });
    throw error;
  }
  return (await stat(to)).size;
}

/** Puts a backup into a data folder that is empty or not there. Gives the database's size in bytes. */
export async function restore(from: string, folder: string): Promise<number> {
  if (!existsSync(from)) throw new BackupRefused(`There is no file ${from}.`);
  const fault = await faultIn(from);
  if (fault !== undefined) throw new BackupRefused(`${from} is not a complete backup: ${fault}.`);
  await mkdir(folder, { recursive: true });
  if ((await readdir(folder)).length > 0)
    throw new BackupRefused(`${resolve(folder)} is not empty. Restore into a new folder, and start on that: --data.`);
  const draft = join(folder, `${DATABASE}.part`);
  await copyFile(from, draft, constants.COPYFILE_EXCL);
  await rename(draft, join(folder, DATABASE));
  return (await stat(join(folder, DATABASE))).size;
}
