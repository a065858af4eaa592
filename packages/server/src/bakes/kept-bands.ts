import { bandLength, type BakePlan, type Band } from '@estela/core';
import type { Transaction } from 'sequelize';
import type { Database } from '../storage/database.ts';
import type { BakeRow } from '../storage/models.ts';
import type { WriteQueue } from '../storage/write-queue.ts';
import { why } from '../http/wording.ts';

/** Most bytes that one bake may come to. */
const BAKE_BYTES = 1024 ** 3;

/** Bands that one statement stores. */
const AT_ONCE = 200;

export const isOver = ({ state }: Pick<BakeRow, 'state'>): boolean => state !== 'queued' && state !== 'running';

/** The bands of bakes that are computed, until their files are made of them. */
export class KeptBands {
  constructor(
    readonly database: Database,
    readonly writes: WriteQueue,
  ) {}

  /**
   * Keeps a chunk, whose first band is `first` and which is worth so many frames; once, also where it comes twice. False
   * where nobody waits for it any more. Throws where the bake comes to too much.
   */
  keep(bakeId: string, first: number, made: readonly Band[], frames: number): Promise<boolean> {
    const { bakes, bands } = this.database;
    const size = made.reduce((sum, { bytes }) => sum + bytes.length, 0);
    return this.#write(async (transaction) => {
      const row = await bakes.findByPk(bakeId, { transaction });
      if (!row || isOver(row)) return false;
      if (await bands.findOne({ where: { bakeId, number: first }, transaction })) return true;
      if ((row.size ?? 0) + size > BAKE_BYTES) throw new Error(why.bakeTooLarge);
      for (let i = 0; i < made.length; i += AT_ONCE)
        await this.#insert(bakeId, first + i, made.slice(i, i + AT_ONCE), transaction);
      await row.update(
        { done: row.done + frames, size: (row.size ?? 0) + size, version: row.version + 1 },
        { transaction },
      );
      return true;
    });
  }

  /** Which are kept: a chunk is so whole or not at all. None where another Estela cut the bake otherwise. */
  async numbers(bakeId: string, plan: BakePlan): Promise<ReadonlySet<number>> {
    const kept = await this.database.bands.findAll({ where: { bakeId }, attributes: ['number', 'length'] });
    const fit = kept.every(({ number, length }) => {
      const band = plan.bands[number];
      return band && bandLength(plan, band) === length;
    });
    if (fit) return new Set(kept.map((b) => b.number));
    await this.#write(async (transaction) => {
      await this.database.bands.destroy({ where: { bakeId }, transaction });
      await this.database.bakes.update({ done: 0, size: null }, { where: { id: bakeId }, transaction });
    });
    return new Set();
  }

  /** All of a bake, in order. Throws where one is missing. */
  async *all(bakeId: string, count: number): AsyncGenerator<Band> {
    for (let number = 0; number < count; number++) {
      const row = await this.database.bands.findOne({ where: { bakeId, number } });
      if (!row) throw new Error(why.framesMissing);
      yield { adler: row.adler, length: row.length, bytes: new Uint8Array(row.bytes) };
    }
  }

  /** Some bands in a row, by one statement: each by its own takes as long again as computing some of them. */
  async #insert(bakeId: string, first: number, made: readonly Band[], transaction: Transaction): Promise<void> {
    const bind = made.flatMap(({ adler, length, bytes }, i) => [
      ...[bakeId, first + i, adler, length],
      Buffer.from(bytes.buffer, bytes.byteOffset, bytes.length),
    ]);
    const rows = made.map((_, i) => `(${[1, 2, 3, 4, 5].map((n) => `$${String(5 * i + n)}`).join(', ')})`).join(', ');
    await this.database.sequelize.query(`INSERT INTO bands (bakeId, number, adler, length, bytes) VALUES ${rows}`, {
      bind,
      transaction,
    });
  }

  #write<T>(act: (transaction: Transaction) => Promise<T>): Promise<T> {
    return this.writes.run(() => this.database.transaction(act));
  }
}
