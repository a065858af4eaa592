import { mkdir, open, rename, rm, stat, type FileHandle } from 'node:fs/promises';
import { dirname } from 'node:path';
import { fail } from './settings.ts';
import { say } from './wording.ts';

/** A file that is written as its parts come: beside its place first, and put there once it is whole. */
export class WholeFile {
  private constructor(
    readonly path: string,
    readonly handle: FileHandle,
  ) {}

  static async at(path: string): Promise<WholeFile> {
    await mkdir(dirname(path), { recursive: true });
    return new WholeFile(path, await open(`${path}.part`, 'w'));
  }

  async write(bytes: Uint8Array): Promise<void> {
    await this.handle.writeFile(bytes);
  }

  async finish(): Promise<void> {
    await this.handle.close();
    await rename(`${this.path}.part`, this.path);
  }

  async drop(): Promise<void> {
    await this.handle.close();
    await rm(`${this.path}.part`, { force: true });
  }
}

/** Writes a file that is there whole or not at all. */
export async function writeWhole(path: string, bytes: Uint8Array): Promise<void> {
  const file = await WholeFile.at(path);
  try {
    await file.write(bytes);
    await file.finish();
  } catch (error) {
    await file.drop();
    throw error;
  }
}

/** Throws with a sentence where a file's name is a folder's. */
export async function needFileName(path: string): Promise<void> {
  if ((await stat(path).catch(() => undefined))?.isDirectory() === true) fail(say.isFolder(path));
}
