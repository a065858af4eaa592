import { randomUUID } from 'node:crypto';
import { mkdir, readdir, readFile, rename, rm, stat, utimes, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { bytesIn } from '../storage/blobs.ts';

/** Milliseconds after which what is half written is nobody's. */
const STALE = 3600_000;

/** How often a file is fetched that comes broken. */
const TRIES = 3;

/** Files by their SHA-256 in a folder, so much of them; those that were used longest ago go first. Several workers may share one. */
export class FileCache {
  readonly #underWay = new Map<string, Promise<Buffer>>();

  constructor(
    readonly folder: string,
    readonly most: number,
    readonly fetch: (hash: string) => Promise<Buffer>,
  ) {}

  /** A file: from the folder, else fetched, once however many ask for it. Throws what fetching throws. */
  get(hash: string): Promise<Buffer> {
    let asked = this.#underWay.get(hash);
    if (!asked) {
      asked = this.#get(hash).finally(() => this.#underWay.delete(hash));
      this.#underWay.set(hash, asked);
    }
    return asked;
  }

  async #get(hash: string): Promise<Buffer> {
    const path = join(this.folder, hash);
    const kept = await readFile(path).catch(() => undefined);
    if (kept && bytesIn(kept).hash === hash) {
      const now = new Date();
      await utimes(path, now, now).catch(() => undefined);
      return kept;
    }
    let bytes = await this.fetch(hash);
    for (let tries = 1; bytesIn(bytes).hash !== hash; tries++) {
      if (tries === TRIES) throw new Error('An image does not match its hash.');
      bytes = await this.fetch(hash);
    }
    // Without room on the disk it is fetched again next time.
    await this.#keep(path, bytes).catch(() => undefined);
    return bytes;
  }

  async #keep(path: string, bytes: Buffer): Promise<void> {
    await mkdir(this.folder, { recursive: true });
    const written = join(this.folder, `${randomUUID()}.part`);
    try {
      await writeFile(written, bytes);
      await rename(written, path);
    } finally {
      await rm(written, { force: true });
    }
    await this.#tidy();
  }

  /** Drops the oldest until there is no more than may be. */
  async #tidy(): Promise<void> {
    const files: { path: string; size: number; used: number }[] = [];
    for (const name of await readdir(this.folder)) {
      const path = join(this.folder, name);
      const found = await stat(path).catch(() => undefined);
      // What a worker that was killed had begun.
      if (name.endsWith('.part') && found && Date.now() - found.mtimeMs > STALE) await rm(path, { force: true });
      if (/^[0-9a-f]{64}$/.test(name) && found) files.push({ path, size: found.size, used: found.mtimeMs });
    }
    files.sort((a, b) => a.used - b.used);
    let size = files.reduce((sum, file) => sum + file.size, 0);
    for (const file of files) {
      if (size <= this.most) return;
      await rm(file.path, { force: true });
      size -= file.size;
    }
  }
}
