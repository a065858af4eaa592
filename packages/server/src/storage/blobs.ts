import { createHash } from 'node:crypto';
import type { Transaction } from 'sequelize';
import { BlobRow } from './models.ts';

/** Keeps bytes under their SHA-256, once, however often they are used; gives it in hex. */
export async function keepBytes(bytes: Buffer, transaction: Transaction): Promise<string> {
  const hash = createHash('sha256').update(bytes).digest('hex');
  await BlobRow.findOrCreate({ where: { hash }, defaults: { hash, bytes }, transaction });
  return hash;
}
