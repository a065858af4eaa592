import { DataTypes, type QueryInterface } from 'sequelize';
import { SequelizeStorage, Umzug } from 'umzug';
import type { Sequelize } from 'sequelize';

interface Migration {
  readonly name: string;
  readonly up: (q: QueryInterface) => Promise<void>;
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
  },
  {
    name: '0003-named-revisions-deleted-materials',
    up: async (q) => {
      await q.addColumn('revisions', 'name', { ...required(DataTypes.TEXT), defaultValue: '' } as Parameters<
        QueryInterface['addColumn']
      >[2]);
      await q.addColumn('materials', 'deletedAt', { type: DataTypes.DATE, allowNull: true });
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
  },
  {
    // Undo may bring a replaced or deleted picture or mesh back by its hash, a week from when the last that used it
    // stopped.
    name: '0005-unused-since',
    up: async (q) => {
      const run = (sql: string): Promise<unknown> => q.sequelize.query(sql);
      const now = "strftime('%Y-%m-%dT%H:%M:%fZ', 'now')";
      await q.addColumn('blobs', 'unusedSince', { type: DataTypes.TEXT, allowNull: true });
      const leave = (hash: string): string =>
        `UPDATE blobs SET unusedSince = ${now} WHERE hash ${hash} AND hash NOT IN (SELECT hash FROM sources UNION SELECT hash FROM meshes);`;
      const take = 'UPDATE blobs SET unusedSince = NULL WHERE hash = NEW.hash;';
      await run(leave('IS NOT NULL'));
      await run(`CREATE TRIGGER blobs_new AFTER INSERT ON blobs BEGIN ${leave('= NEW.hash')} END`);
      for (const table of ['sources', 'meshes']) {
        await run(`CREATE TRIGGER ${table}_new AFTER INSERT ON ${table} BEGIN ${take} END`);
        await run(
          `CREATE TRIGGER ${table}_changed AFTER UPDATE OF hash ON ${table} BEGIN ${leave('= OLD.hash')} ${take} END`,
        );
        await run(`CREATE TRIGGER ${table}_gone AFTER DELETE ON ${table} BEGIN ${leave('= OLD.hash')} END`);
      }
    },
  },
];

/** Brings the tables up to date; gives the names of the migrations that ran. */
export async function migrate(sequelize: Sequelize): Promise<string[]> {
  const umzug = new Umzug({
    migrations: MIGRATIONS.map(({ name, up }) => ({ name, up: () => up(sequelize.getQueryInterface()) })),
    storage: new SequelizeStorage({ sequelize }),
    logger: undefined,
  });
  return (await umzug.up()).map((m) => m.name);
}
