import type { Model, ModelStatic, Transaction } from 'sequelize';
import { stale } from '../http/problem.ts';

interface Guard {
  /** What the row is, in a sentence. */
  readonly what: string;
  /** The column that counts its changes. */
  readonly counter?: 'version' | 'revision';
  /** Its next count; the same where the change is none of its content. */
  readonly next?: number;
  readonly transaction?: Transaction;
}

const modelOf = (row: Model): ModelStatic<Model> => row.constructor as ModelStatic<Model>;
const countOf = (row: Model, counter: string): number => row.get(counter) as number;
const same = (row: Model, counter: string) => ({ id: row.get('id') as string, [counter]: countOf(row, counter) });

/**
 * Changes a row where it still is what was read of it, by its counter: whoever comes second, from whatever process, is
 * told that it is stale.
 */
export async function update<M extends Model>(
  row: M,
  values: object,
  { what, counter = 'version', next, transaction }: Guard,
): Promise<M> {
  const count = countOf(row, counter);
  const [changed] = await modelOf(row).update(
    { ...values, [counter]: next ?? count + 1 },
    { where: same(row, counter), transaction },
  );
  if (changed === 0) throw stale(what, count + 1);
  return row.reload({ transaction });
}

/** Deletes a row where it still is what was read of it. */
export async function destroy(row: Model, { what, counter = 'version', transaction }: Guard): Promise<void> {
  const gone = await modelOf(row).destroy({ where: same(row, counter), transaction });
  if (gone === 0) throw stale(what, countOf(row, counter) + 1);
}
