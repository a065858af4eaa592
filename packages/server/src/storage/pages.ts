import type { PageQuery } from '@estela/contract';
import { DataTypes, Op, type Attributes, type Model, type ModelStatic, type WhereOptions } from 'sequelize';
import type { Page } from '../http/paged.ts';
import { invalid } from '../http/problem.ts';

const written = (values: readonly unknown[]): string => Buffer.from(JSON.stringify(values)).toString('base64url');

function read(cursor: string, columns: number): (string | number)[] {
  try {
    const values: unknown = JSON.parse(Buffer.from(cursor, 'base64url').toString());
    if (
      Array.isArray(values) &&
      values.length === columns &&
      values.every((v) => typeof v === 'string' || typeof v === 'number')
    )
      return values;
  } catch {
    // Said below.
  }
  throw invalid('This cursor is not valid. Request the list from its start.');
}

/**
 * A page of a table's rows, in the order of some columns of which the last tells rows apart. It goes on behind the
 * row that a cursor names, so that what is made or deleted meanwhile neither doubles nor hides another.
 */
export async function pageOf<M extends Model, T>(
  model: ModelStatic<M>,
  where: WhereOptions<Attributes<M>>,
  columns: readonly string[],
  { limit, cursor, updatedSince }: PageQuery,
  view: (row: M) => T,
): Promise<Page<T>> {
  const attributes: Readonly<Record<string, { readonly type: unknown }>> = model.getAttributes();
  const isDate = (column: string): boolean => attributes[column]?.type instanceof DataTypes.DATE;
  const values = cursor === undefined ? undefined : read(cursor, columns.length);
  const given = values?.map((v, i) => (isDate(columns[i]!) ? new Date(v) : v));
  if (given?.some((v) => v instanceof Date && Number.isNaN(v.getTime()))) throw invalid('This cursor is not valid.');
  // (a, b, c) > (x, y, z): a > x, or a = x and b > y, ...
  const behind = given && {
    [Op.or]: columns.map((column, i) => ({
      ...Object.fromEntries(columns.slice(0, i).map((c, k) => [c, given[k]])),
      [column]: { [Op.gt]: given[i] },
    })),
  };
  const since = updatedSince && { updatedAt: { [Op.gte]: updatedSince } };
  const rows = await model.findAll({
    where: { [Op.and]: [where, behind ?? {}, since ?? {}] } as WhereOptions<Attributes<M>>,
    order: columns.map((c) => [c, 'ASC'] as [string, string]),
    ...(limit === undefined ? {} : { limit: limit + 1 }),
  });
  const more = limit !== undefined && rows.length > limit;
  const shown = more ? rows.slice(0, limit) : rows;
  const last = shown.at(-1);
  return { items: shown.map(view), next: more && last ? written(columns.map((c) => last.get(c))) : undefined };
}
