import { join } from 'node:path';
import sqlite3 from 'sqlite3';

/** Another Estela uses the folder. */
export class FolderTaken extends Error {
  constructor(folder: string) {
    super(
      `Estela runs on ${folder} already. Stop that one, or start this one on another folder: npm start -- --data FOLDER`,
    );
  }
}

/**
 * Keeps a folder for this process: an exclusive transaction is held on a database beside the real one. The system lets
 * go of it with the process, however that ends. Gives the function that lets go of it; throws FolderTaken.
 */
export async function lockFolder(folder: string): Promise<() => Promise<void>> {
  const database = await new Promise<sqlite3.Database>((resolve, reject) => {
    const opened: sqlite3.Database = new sqlite3.Database(join(folder, 'estela.lock'), (error) => {
      if (error) reject(error);
      else resolve(opened);
    });
  });
  const close = (): Promise<void> =>
    new Promise((resolve) => {
      database.close(() => {
        resolve();
      });
    });
  try {
    await new Promise<void>((resolve, reject) => {
      database.exec('BEGIN EXCLUSIVE', (error) => {
        if (error) reject(error);
        else resolve();
      });
    });
  } catch (error) {
    await close();
    throw error instanceof Error && 'code' in error && error.code === 'SQLITE_BUSY' ? new FolderTaken(folder) : error;
  }
  return close;
}
