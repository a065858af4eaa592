import { createHash, randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { mkdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { fileIn, type Incoming } from '../storage/blobs.ts';

/** A file that was sent, in a file of its own until the request ends. */
export interface Upload extends Incoming {
  readonly path: string;
}

/** The folder that what is being sent is written to, within the data folder. */
export class Uploads {
  constructor(readonly folder: string) {}

  /** Writes a stream to a file, and makes its hash on the way. Leaves nothing where it breaks off. */
  async take(stream: Readable): Promise<Upload> {
    await mkdir(this.folder, { recursive: true });
    const path = join(this.folder, randomUUID());
    const hash = createHash('sha256');
    let size = 0;
    try {
      await pipeline(
        stream,
        async function* (chunks: AsyncIterable<Buffer>) {
          for await (const chunk of chunks) {
            hash.update(chunk);
            size += chunk.length;
            yield chunk;
          }
        },
        createWriteStream(path, { flags: 'wx' }),
      );
    } catch (error) {
      await this.drop({ path });
      throw error;
    }
    return { path, ...fileIn(path, hash.digest('hex'), size) };
  }

  async drop({ path }: { readonly path: string }): Promise<void> {
    await rm(path, { force: true });
  }

  /** Drops what a server that was killed left. */
  async clear(): Promise<void> {
    await rm(this.folder, { recursive: true, force: true });
  }
}
