import { createHash } from 'node:crypto';
import { open } from 'node:fs/promises';
import { buffer } from 'node:stream/consumers';
import type { Transaction } from 'sequelize';
import type { Database } from './database.ts';
import type { WriteQueue } from './write-queue.ts';

/** Bytes of one part of what is kept: small enough to be written and read as a stream. The last part may be shorter. */
export const PART = 1024 * 1024;

/** Bytes that may be kept, with their hash made already. */
export interface Incoming {
  /** SHA-256, in hex. */
  readonly hash: string;
  /** Length in bytes. */
  readonly size: number;
  /** At most `length` bytes from byte `first` on; fewer at the end alone. */
  readonly read: (first: number, length: number) => Promise<Buffer>;
}

/** Bytes that are in memory. */
export const bytesIn = (bytes: Buffer): Incoming => ({
  hash: createHash('sha256').update(bytes).digest('hex'),
  size: bytes.length,
  read: (first, length) => Promise.resolve(bytes.subarray(first, first + length)),
});

/** Bytes of a file, which stays until they are kept. */
export const fileIn = (path: string, hash: string, size: number): Incoming => ({
  hash,
  size,
  async read(first, length) {
    const file = await open(path);
    try {
      const bytes = Buffer.alloc(Math.min(length, size - first));
      return bytes.subarray(0, (await file.read(bytes, { position: first })).bytesRead);
    } finally {
      await file.close();
    }
  },
});

/** Bytes that are kept under a hash already; undefined where none are. */
export async function storedIn(database: Database, hash: string): Promise<Incoming | undefined> {
  const blob = await database.blobs.findByPk(hash);
  if (!blob) return undefined;
  return {
    hash,
    size: blob.size,
    read: (first, length) => buffer(readParts(database, hash, first, Math.min(blob.size, first + length) - 1)),
  };
}

/** Keeps bytes under their SHA-256, once, however often they are used. */
export async function keepBytes(database: Database, incoming: Incoming, transaction: Transaction): Promise<void> {
  await keepSome(database, incoming, transaction, Infinity);
}

/**
 * Keeps so many parts more of some bytes, from where it had come to; says whether all are kept. A server may have been
 * killed in between.
 */
async function keepSome(
  { blobs, parts }: Database,
  { hash, size, read }: Incoming,
  transaction: Transaction,
  most: number,
): Promise<boolean> {
  if (!(await blobs.findByPk(hash, { transaction }))) await blobs.create({ hash, size }, { transaction });
  const kept = await parts.count({ where: { hash }, transaction });
  const end = Math.min(Math.ceil(size / PART), kept + most);
  for (let number = kept; number < end; number++)
    await parts.create({ hash, number, bytes: await read(number * PART, PART) }, { transaction });
  return end * PART >= size;
}

/** Parts that are kept in one write: others have their turn after some milliseconds. */
const AT_ONCE = 8;

/** Keeps bytes of any size under their SHA-256, some parts at a time: nobody knows their hash before all are there. */
export async function keepLarge(
  database: Database,
  queue: WriteQueue,
  incoming: Incoming,
  stop: AbortSignal,
): Promise<void> {
  let whole = false;
  while (!whole) {
    stop.throwIfAborted();
    whole = await queue.run(() => database.transaction((t) => keepSome(database, incoming, t, AT_ONCE)));
  }
}

/** The bytes of a hash from byte `first` to byte `last`, a part at a time. Throws where they are not there. */
export async function* readParts(
  { parts }: Database,
  hash: string,
  first: number,
  last: number,
): AsyncGenerator<Buffer> {
  for (let at = first; at <= last;) {
    const number = Math.floor(at / PART);
    const part = await parts.findOne({ where: { hash, number } });
    const from = at - number * PART;
    const bytes = part?.bytes.subarray(from, last + 1 - number * PART);
    if (!bytes?.length) throw new Error(`The bytes of ${hash} are not there.`);
    yield bytes;
    at += bytes.length;
  }
}

/** All bytes of a hash. Throws where they are not there. */
export async function readBytes(database: Database, hash: string): Promise<Buffer> {
  const stored = await storedIn(database, hash);
  if (!stored) throw new Error(`The bytes of ${hash} are not there.`);
  return stored.read(0, stored.size);
}
