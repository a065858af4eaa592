import { DataTypes, type QueryInterface } from 'sequelize';
import { SequelizeStorage, Umzug } from 'umzug';
import type { Sequelize } from 'sequelize';

interface Migration {
  readonly name: string;
  readonly up: (q: QueryInterface) => Promise<void>;
  /** Leads back to the tables of before; what they have no place for is dropped. */
  readonly down: (q: QueryInterface) => Promise<void>;
}

const required = (
  type: typeof DataTypes.TEXT | typeof DataTypes.INTEGER | typeof DataTypes.DATE | typeof DataTypes.BLOB,
): object => ({
  type,
  allowNull: false,
});
const references = (model: string, column = 'id', onDelete = 'CASCADE'): object => ({
  ...required(DataTypes.TEXT),
  references: { model, key: column },
  onDelete,
});
const times = (): object => ({ createdAt: required(DataTypes.DATE), updatedAt: required(DataTypes.DATE) });
type Columns = Parameters<QueryInterface['createTable']>[1];

const INDICES: readonly (readonly [table: string, columns: readonly string[]])[] = [
  ['sources', ['hash']],
  ['meshes', ['hash']],
  ['blobs', ['unusedSince']],
  ['materials', ['deletedAt']],
];

/** Tables that use bytes by their `hash`. */
const USERS = ['sources', 'meshes', 'bakes', 'bakeImages'];
/** Nothing uses some bytes: as it was asked of two tables, and is of all. */
const OF_TWO = 'hash NOT IN (SELECT hash FROM sources UNION SELECT hash FROM meshes)';
const OF_ALL = `NOT EXISTS (${USERS.map((table) => `SELECT 1 FROM ${table} WHERE ${table}.hash = blobs.hash`).join(' UNION ALL ')})`;
const STOP = "UPDATE blobs SET unusedSince = strftime('%Y-%m-%dT%H:%M:%fZ', 'now')";

/** Keeps `unusedSince` of bytes: when the last row of these tables that used them stopped. */
async function addUseTriggers(q: QueryInterface, tables: readonly string[], unused: string): Promise<void> {
  const run = (sql: string): Promise<unknown> => q.sequelize.query(sql);
  const leave = (hash: string): string => `${STOP} WHERE hash = ${hash} AND ${unused};`;
  const take = 'UPDATE blobs SET unusedSince = NULL WHERE hash = NEW.hash;';
  await run(`CREATE TRIGGER blobs_new AFTER INSERT ON blobs BEGIN ${leave('NEW.hash')} END`);
  for (const table of tables) {
    await run(`CREATE TRIGGER ${table}_new AFTER INSERT ON ${table} BEGIN ${take} END`);
    await run(
      `CREATE TRIGGER ${table}_changed AFTER UPDATE OF hash ON ${table} BEGIN ${leave('OLD.hash')} ${take} END`,
    );
    await run(`CREATE TRIGGER ${table}_gone AFTER DELETE ON ${table} BEGIN ${leave('OLD.hash')} END`);
  }
}

async function dropUseTriggers(q: QueryInterface, tables: readonly string[]): Promise<void> {
  const triggers = tables.flatMap((t) => [`${t}_new`, `${t}_changed`, `${t}_gone`]);
  for (const trigger of ['blobs_new', ...triggers]) await q.sequelize.query(`DROP TRIGGER ${trigger}`);
}

/** In order; one that has run is never changed, only followed by another. */
const MIGRATIONS: readonly Migration[] = [
  {
    name: '0001-projects-materials-sources',
    up: async (q) => {
      const key = (): object => ({ type: DataTypes.TEXT, primaryKey: true });
      await q.createTable('projects', {
        id: key(),
        name: required(DataTypes.TEXT),
        notes: required(DataTypes.TEXT),
        version: required(DataTypes.INTEGER),
        ...times(),
      } as Columns);
      await q.createTable('materials', {
        id: key(),
        projectId: references('projects'),
        title: required(DataTypes.TEXT),
        text: required(DataTypes.TEXT),
        revision: required(DataTypes.INTEGER),
        ...times(),
      } as Columns);
      await q.addIndex('materials', ['projectId']);
      await q.createTable(
        'revisions',
        {
          id: { type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true },
          materialId: references('materials'),
          number: required(DataTypes.INTEGER),
          text: required(DataTypes.TEXT),
          createdAt: required(DataTypes.DATE),
        } as Columns,
        { uniqueKeys: { revision_number: { fields: ['materialId', 'number'] } } },
      );
      await q.createTable('blobs', {
        hash: key(),
        bytes: required(DataTypes.BLOB),
        createdAt: required(DataTypes.DATE),
      } as Columns);
      await q.createTable(
        'sources',
        {
          id: key(),
          projectId: references('projects'),
          name: required(DataTypes.TEXT),
          mime: required(DataTypes.TEXT),
          width: required(DataTypes.INTEGER),
          height: required(DataTypes.INTEGER),
          hash: references('blobs', 'hash', 'RESTRICT'),
          ...times(),
        } as Columns,
        { uniqueKeys: { source_name: { fields: ['projectId', 'name'] } } },
      );
    },
    down: async (q) => {
      for (const table of ['sources', 'blobs', 'revisions', 'materials', 'projects']) await q.dropTable(table);
    },
  },
  {
    name: '0002-source-recipes',
    up: async (q) => {
      const number = (defaultValue: number): object => ({ ...required(DataTypes.INTEGER), defaultValue });
      type Column = Parameters<QueryInterface['addColumn']>[2];
      await q.addColumn('sources', 'bits', number(8) as Column);
      await q.addColumn('sources', 'size', number(0) as Column);
      await q.addColumn('sources', 'recipe', { type: DataTypes.TEXT, allowNull: true });
      await q.addColumn('sources', 'version', number(1) as Column);
      await q.sequelize.query(
        'UPDATE sources SET size = (SELECT length(bytes) FROM blobs WHERE blobs.hash = sources.hash)',
      );
    },
    down: async (q) => {
      // Sequelize would make the table anew, without its constraints.
      for (const column of ['bits', 'size', 'recipe', 'version'])
        await q.sequelize.query(`ALTER TABLE sources DROP COLUMN ${column}`);
    },
  },
  {
    name: '0003-named-revisions-deleted-materials',
    up: async (q) => {
      await q.addColumn('revisions', 'name', { ...required(DataTypes.TEXT), defaultValue: '' } as Parameters<
        QueryInterface['addColumn']
      >[2]);
      await q.addColumn('materials', 'deletedAt', { type: DataTypes.DATE, allowNull: true });
    },
    down: async (q) => {
      await q.sequelize.query('DELETE FROM materials WHERE deletedAt IS NOT NULL');
      await q.sequelize.query('ALTER TABLE materials DROP COLUMN deletedAt');
      await q.sequelize.query('ALTER TABLE revisions DROP COLUMN name');
    },
  },
  {
    name: '0004-meshes-sets',
    up: async (q) => {
      const key = (): object => ({ type: DataTypes.TEXT, primaryKey: true });
      await q.createTable(
        'meshes',
        {
          id: key(),
          projectId: references('projects'),
          name: required(DataTypes.TEXT),
          hash: references('blobs', 'hash', 'RESTRICT'),
          size: required(DataTypes.INTEGER),
          triangles: required(DataTypes.INTEGER),
          version: required(DataTypes.INTEGER),
          ...times(),
        } as Columns,
        { uniqueKeys: { mesh_name: { fields: ['projectId', 'name'] } } },
      );
      await q.createTable(
        'sets',
        {
          id: key(),
          projectId: references('projects'),
          name: required(DataTypes.TEXT),
          body: required(DataTypes.TEXT),
          version: required(DataTypes.INTEGER),
          ...times(),
        } as Columns,
        { uniqueKeys: { set_name: { fields: ['projectId', 'name'] } } },
      );
    },
    down: async (q) => {
      for (const table of ['sets', 'meshes']) await q.dropTable(table);
    },
  },
  {
    // Undo may bring a replaced or deleted picture or mesh back by its hash, a week from when the last that used it
    // stopped.
    name: '0005-unused-since',
    up: async (q) => {
      await q.addColumn('blobs', 'unusedSince', { type: DataTypes.TEXT, allowNull: true });
      await q.sequelize.query(`${STOP} WHERE hash IS NOT NULL AND ${OF_TWO}`);
      await addUseTriggers(q, ['sources', 'meshes'], OF_TWO);
    },
    down: async (q) => {
      await dropUseTriggers(q, ['sources', 'meshes']);
      await q.sequelize.query('ALTER TABLE blobs DROP COLUMN unusedSince');
    },
  },
  {
    // Who uses which bytes is asked at every change of them, and what may go every few hours.
    name: '0006-indices',
    up: async (q) => {
      for (const [table, columns] of INDICES)
        await q.addIndex(table, [...columns], { name: `${table}_${columns.join('_')}` });
    },
    down: async (q) => {
      for (const [table, columns] of INDICES) await q.removeIndex(table, `${table}_${columns.join('_')}`);
    },
  },
  {
    // Bytes in parts of 1 MiB: written and read as streams, whatever their size.
    name: '0007-parts',
    up: async (q) => {
      const run = (sql: string): Promise<unknown> => q.sequelize.query(sql);
      const part = 1024 * 1024;
      await run(
        'CREATE TABLE parts (hash TEXT NOT NULL REFERENCES blobs (hash) ON DELETE CASCADE, number INTEGER NOT NULL, bytes BLOB NOT NULL, PRIMARY KEY (hash, number))',
      );
      await run(
        `WITH RECURSIVE cut (hash, number, size) AS (
           SELECT hash, 0, length(bytes) FROM blobs WHERE length(bytes) > 0
           UNION ALL SELECT hash, number + 1, size FROM cut WHERE (number + 1) * ${String(part)} < size
         )
         INSERT INTO parts SELECT cut.hash, number, substr(bytes, number * ${String(part)} + 1, ${String(part)})
           FROM cut JOIN blobs ON blobs.hash = cut.hash`,
      );
      await run('ALTER TABLE blobs ADD COLUMN size INTEGER NOT NULL DEFAULT 0');
      await run('UPDATE blobs SET size = length(bytes)');
      await run('ALTER TABLE blobs DROP COLUMN bytes');
    },
    down: async (q) => {
      const run = (sql: string): Promise<unknown> => q.sequelize.query(sql);
      await run("ALTER TABLE blobs ADD COLUMN bytes BLOB NOT NULL DEFAULT x''");
      const [rows] = await q.sequelize.query('SELECT hash, number FROM parts ORDER BY hash, number');
      for (const { hash, number } of rows as { hash: string; number: number }[])
        await q.sequelize.query(
          'UPDATE blobs SET bytes = CAST(bytes || (SELECT bytes FROM parts WHERE hash = :hash AND number = :number) AS BLOB) WHERE hash = :hash',
          { replacements: { hash, number } },
        );
      await run('ALTER TABLE blobs DROP COLUMN size');
      await run('DROP TABLE parts');
    },
  },
  {
    // Bakes, the bands that are computed of them until they are done, and the images that they read.
    name: '0008-bakes',
    up: async (q) => {
      const run = (sql: string): Promise<unknown> => q.sequelize.query(sql);
      await run(
        `CREATE TABLE bakes (
           id TEXT PRIMARY KEY, projectId TEXT NOT NULL REFERENCES projects (id) ON DELETE CASCADE,
           materialId TEXT NOT NULL, title TEXT NOT NULL, revision INTEGER NOT NULL, text TEXT NOT NULL,
           recipe TEXT NOT NULL, signature TEXT NOT NULL, state TEXT NOT NULL, done REAL NOT NULL, total INTEGER NOT NULL,
           problem TEXT, name TEXT NOT NULL, mime TEXT NOT NULL, size INTEGER, hash TEXT REFERENCES blobs (hash),
           picture BLOB, version INTEGER NOT NULL, createdAt DATETIME NOT NULL, startedAt DATETIME, finishedAt DATETIME,
           updatedAt DATETIME NOT NULL)`,
      );
      await run('CREATE INDEX bakes_projectId ON bakes (projectId)');
      await run(
        'CREATE TABLE bands (bakeId TEXT NOT NULL REFERENCES bakes (id) ON DELETE CASCADE, number INTEGER NOT NULL, adler INTEGER NOT NULL, length INTEGER NOT NULL, bytes BLOB NOT NULL, PRIMARY KEY (bakeId, number))',
      );
      await run(
        'CREATE TABLE bakeImages (bakeId TEXT NOT NULL REFERENCES bakes (id) ON DELETE CASCADE, name TEXT NOT NULL, hash TEXT NOT NULL REFERENCES blobs (hash), PRIMARY KEY (bakeId, name))',
      );
      for (const table of ['bakes', 'bakeImages']) await run(`CREATE INDEX ${table}_hash ON ${table} (hash)`);
      await dropUseTriggers(q, ['sources', 'meshes']);
      await addUseTriggers(q, USERS, OF_ALL);
    },
    down: async (q) => {
      await dropUseTriggers(q, USERS);
      for (const table of ['bands', 'bakeImages', 'bakes']) await q.dropTable(table);
      await addUseTriggers(q, ['sources', 'meshes'], OF_TWO);
    },
  },
  {
    // `film` of an object of a set is `overlay`, `way` of a source that was made tileable is `method`.
    name: '0009-overlays-methods',
    up: async (q) => {
      await renameItemKey(q, 'film', 'overlay');
      await renameRecipeKey(q, 'way', 'method');
    },
    down: async (q) => {
      await renameItemKey(q, 'overlay', 'film');
      await renameRecipeKey(q, 'method', 'way');
    },
  },
];

type Json = Readonly<Record<string, unknown>>;
const renamed = (object: Json, from: string, to: string): Json =>
  Object.fromEntries(Object.entries(object).map(([key, value]) => [key === from ? to : key, value]));

/** Changes the JSON in a column of all rows of a table. */
async function changeJson(
  q: QueryInterface,
  table: string,
  column: string,
  change: (json: Json) => Json,
): Promise<void> {
  const [rows] = await q.sequelize.query(`SELECT id, ${column} AS json FROM ${table} WHERE ${column} IS NOT NULL`);
  for (const { id, json } of rows as { id: string; json: string }[]) {
    const next = JSON.stringify(change(JSON.parse(json) as Json));
    if (next !== json)
      await q.sequelize.query(`UPDATE ${table} SET ${column} = :next WHERE id = :id`, { replacements: { next, id } });
  }
}

const renameItemKey = (q: QueryInterface, from: string, to: string): Promise<void> =>
  changeJson(q, 'sets', 'body', (body) => ({
    ...body,
    items: (body.items as readonly Json[]).map((item) => renamed(item, from, to)),
  }));

const renameRecipeKey = (q: QueryInterface, from: string, to: string): Promise<void> =>
  changeJson(q, 'sources', 'recipe', (recipe) => (recipe.kind === 'tile' ? renamed(recipe, from, to) : recipe));

const umzugOf = (sequelize: Sequelize): Umzug =>
  new Umzug({
    migrations: MIGRATIONS.map(({ name, up, down }) => ({
      name,
      up: () => up(sequelize.getQueryInterface()),
      down: () => down(sequelize.getQueryInterface()),
    })),
    storage: new SequelizeStorage({ sequelize }),
    logger: undefined,
  });

/**
 * Runs migrations, and the record of them, in one transaction: a server that is killed meanwhile finds what was there
 * before. What is asked outside of Sequelize's own transactions all goes over one connection.
 */
async function allOrNone(
  sequelize: Sequelize,
  run: (umzug: Umzug) => Promise<readonly { readonly name: string }[]>,
): Promise<string[]> {
  await sequelize.query('BEGIN IMMEDIATE');
  try {
    const ran = await run(umzugOf(sequelize));
    await sequelize.query('COMMIT');
    return ran.map((m) => m.name);
  } catch (error) {
    await sequelize.query('ROLLBACK');
    throw error;
  }
}

/** Brings the tables up to date, or to where they are after the migration `to`; gives the names of those that ran. */
export async function migrate(sequelize: Sequelize, to?: string): Promise<string[]> {
  return allOrNone(sequelize, (umzug) => umzug.up(to === undefined ? {} : { to }));
}

/** Leads the tables back to where they were after the migration `to`, or to none. */
export async function migrateBack(sequelize: Sequelize, to?: string): Promise<string[]> {
  const after = to === undefined ? 0 : MIGRATIONS[MIGRATIONS.findIndex((m) => m.name === to) + 1]?.name;
  if (after === undefined) return [];
  return allOrNone(sequelize, (umzug) => umzug.down({ to: after }));
}

/** Names of the migrations, in order. */
export const migrationNames = (): string[] => MIGRATIONS.map((m) => m.name);
