import { afterEach, beforeEach, describe, expect, it } from '@jest/globals';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { setTimeout as pause } from 'node:timers/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Sequelize } from 'sequelize';
import sqlite3 from 'sqlite3';
import { backup, DATABASE, restore } from '../src/storage/backup.ts';
import { PART, readBytes } from '../src/storage/blobs.ts';
import { Database, openDatabase } from '../src/storage/database.ts';
import { migrate, migrateBack, migrationNames } from '../src/storage/migrations.ts';
import { thinRevisions } from '../src/storage/purge.ts';
import { newFile } from './support.ts';

/** What a database is made of: every table, index and trigger as SQLite has it. */
async function shapeOf(sequelize: Sequelize): Promise<string[]> {
  const [rows] = await sequelize.query(
    "SELECT type, name, sql FROM sqlite_master WHERE name NOT LIKE 'sqlite_%' AND name <> 'SequelizeMeta' ORDER BY name",
  );
  const columns = (rows as { type: string; name: string; sql: string }[]).map(async ({ type, name, sql }) => {
    if (type !== 'table') return `${type} ${name}: ${sql}`;
    const [list] = await sequelize.query(`PRAGMA table_info(${name})`);
    return `${name}: ${(list as { name: string; type: string }[])
      .map((c) => `${c.name} ${c.type}`)
      .sort()
      .join(', ')}`;
  });
  return Promise.all(columns);
}

describe('migrations', () => {
  it('bring a database of each earlier one up to date, with what is in it, and back to what it was', async () => {
    const names = migrationNames();
    for (const [i, name] of names.entries()) {
      const sequelize = new Sequelize({ dialect: 'sqlite', storage: newFile(), logging: false });
      await migrate(sequelize, name);
      const before = await shapeOf(sequelize);
      const moment = '2026-01-01 00:00:00.000 +00:00';
      await sequelize.query(
        `INSERT INTO projects (id, name, notes, version, createdAt, updatedAt) VALUES ('p', 'P', '', 1, '${moment}', '${moment}')`,
      );
      await sequelize.query(
        `INSERT INTO materials (id, projectId, title, text, revision, createdAt, updatedAt) VALUES ('m', 'p', 'T', 'text', 1, '${moment}', '${moment}')`,
      );
      // As large as three parts, with every byte in it.
      const bytes = Buffer.from(Uint8Array.from({ length: 2.5 * PART }, (_, i) => i * 7 + (i >> 8)));
      const inParts = names.indexOf(name) >= names.indexOf('0007-parts');
      await sequelize.query(
        inParts
          ? `INSERT INTO blobs (hash, size, createdAt) VALUES ('h', ${String(bytes.length)}, '${moment}')`
          : `INSERT INTO blobs (hash, bytes, createdAt) VALUES ('h', $bytes, '${moment}')`,
        inParts ? {} : { bind: { bytes } },
      );
      for (let n = 0; inParts && n < 3; n++)
        await sequelize.query(`INSERT INTO parts (hash, number, bytes) VALUES ('h', ${String(n)}, $bytes)`, {
          bind: { bytes: bytes.subarray(n * PART, (n + 1) * PART) },
        });
      await sequelize.query(
        `INSERT INTO sources (id, projectId, name, mime, width, height, hash, createdAt, updatedAt) VALUES ('s', 'p', 'a.png', 'image/png', 1, 1, 'h', '${moment}', '${moment}')`,
      );
      expect(await migrate(sequelize)).toEqual(names.slice(i + 1));
      const [sources] = await sequelize.query('SELECT id, name, version, bits FROM sources');
      expect(sources).toEqual([{ id: 's', name: 'a.png', version: 1, bits: 8 }]);
      const database = new Database(sequelize, '');
      expect((await readBytes(database, 'h')).equals(bytes)).toBe(true);
      expect(await database.parts.count()).toBe(3);
      await migrateBack(sequelize, name);
      expect([name, await shapeOf(sequelize)]).toEqual([name, before]);
      if (!inParts) {
        const [[blob]] = await sequelize.query('SELECT bytes FROM blobs');
        expect((blob as { bytes: Buffer }).bytes.equals(bytes)).toBe(true);
      }
      const [materials] = await sequelize.query('SELECT id, title, text FROM materials');
      expect(materials).toEqual([{ id: 'm', title: 'T', text: 'text' }]);
      await migrateBack(sequelize);
      expect(await shapeOf(sequelize)).toEqual([]);
      await sequelize.close();
    }
  });
});

it('gives overlays and ways to tile their names, and takes them away', async () => {
  const sequelize = new Sequelize({ dialect: 'sqlite', storage: newFile(), logging: false });
  await migrate(sequelize, '0008-bakes');
  const run = (sql: string): Promise<unknown> => sequelize.query(sql);
  const moment = "'2026-01-01 00:00:00.000 +00:00'";
  const was = {
    set: { items: [{ id: 'a', film: true, turn: [0, 0, 0] }], view: null },
    recipe: { kind: 'tile', way: 'patch' },
  };
  await run(
    `INSERT INTO projects (id, name, notes, version, createdAt, updatedAt) VALUES ('p', 'P', '', 1, ${moment}, ${moment})`,
  );
  await run(
    `INSERT INTO sets (id, projectId, name, body, version, createdAt, updatedAt) VALUES ('s', 'p', 'S', '${JSON.stringify(was.set)}', 3, ${moment}, ${moment})`,
  );
  await run(`INSERT INTO blobs (hash, size, createdAt) VALUES ('h', 0, ${moment})`);
  for (const [id, recipe] of [
    ['a', `'${JSON.stringify(was.recipe)}'`],
    ['b', 'NULL'],
    ['c', `'{"kind":"step","way":1}'`],
  ] as const)
    await run(
      `INSERT INTO sources (id, projectId, name, mime, width, height, hash, recipe, createdAt, updatedAt) VALUES ('${id}', 'p', '${id}', 'image/png', 1, 1, 'h', ${recipe}, ${moment}, ${moment})`,
    );
  const stored = async (): Promise<unknown[]> => [
    (await sequelize.query('SELECT body, version FROM sets'))[0],
    (await sequelize.query('SELECT recipe FROM sources ORDER BY id'))[0],
  ];
  const before = await stored();
  await migrate(sequelize);
  expect(await stored()).toEqual([
    [{ body: JSON.stringify(was.set).replace('film', 'overlay'), version: 3 }],
    [{ recipe: '{"kind":"tile","method":"patch"}' }, { recipe: null }, { recipe: '{"kind":"step","way":1}' }],
  ]);
  await migrateBack(sequelize, '0008-bakes');
  expect(await stored()).toEqual(before);
  await sequelize.close();
});

it('waits for another process that holds the database', async () => {
  const file = newFile();
  const database = await openDatabase(file);
  const other = new sqlite3.Database(file);
  const run = (sql: string): Promise<void> =>
    new Promise((done) => {
      other.exec(sql, () => {
        done();
      });
    });
  await run('BEGIN EXCLUSIVE');
  // Longer than a connection waits by default.
  const released = pause(1500).then(() => run('COMMIT'));
  await database.transaction((transaction) => database.projects.create({ id: 'p', name: 'P' }, { transaction }));
  await released;
  other.close();
  await database.close();
});

describe('a migration that breaks off', () => {
  it('leaves everything as it was', async () => {
    const sequelize = new Sequelize({ dialect: 'sqlite', storage: newFile(), logging: false });
    const names = migrationNames();
    await migrate(sequelize, names[3]);
    const before = await shapeOf(sequelize);
    // What the last of them makes is in the way: those before it have run by then.
    await sequelize.query('CREATE TABLE parts (id INTEGER)');
    await expect(migrate(sequelize)).rejects.toThrow('already exists');
    await sequelize.query('DROP TABLE parts');
    expect(await shapeOf(sequelize)).toEqual(before);
    expect(await migrate(sequelize)).toEqual(names.slice(4));
    await sequelize.close();
  });
});

describe('revisions', () => {
  let database: Database;
  beforeEach(async () => {
    database = await openDatabase(newFile());
    await database.projects.create({ id: 'p', name: 'P' });
  });
  afterEach(() => database.close());

  it('are thinned: all of an hour, one a minute of a day, one an hour before; named, first and newest stay', async () => {
    const now = new Date('2026-06-10T12:00:00.000Z');
    const ago = (minutes: number): Date => new Date(now.getTime() - minutes * 60_000);
    // Three in one hour of the day before yesterday, three in one minute two hours ago, two just now.
    const times = [3000, 2999.5, 2999, 150.9, 150.6, 150.3, 5, 4.9].map(ago);
    for (const id of ['m', 'other']) {
      await database.materials.create({ id, projectId: 'p', title: 'T', text: '', revision: times.length });
      for (const [i, createdAt] of times.entries())
        await database.revisions.create({
          materialId: id,
          number: i + 1,
          text: String(i),
          name: id === 'other' && i === 3 ? 'kept' : '',
          createdAt,
        });
    }
    const numbers = async (materialId: string): Promise<number[]> =>
      (await database.revisions.findAll({ where: { materialId }, order: ['number'] })).map((r) => r.number);
    await thinRevisions(database, now);
    expect(await numbers('m')).toEqual([1, 3, 6, 7, 8]);
    expect(await numbers('other')).toEqual([1, 3, 4, 6, 7, 8]);
    await thinRevisions(database, now);
    expect(await numbers('m')).toEqual([1, 3, 6, 7, 8]);
  });
});

describe('a backup', () => {
  it('that is taken while 40 writers save is whole, and opens where it is restored', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'estela-backup-'));
    const database = await openDatabase(join(folder, DATABASE));
    await database.projects.create({ id: 'p', name: 'P' });
    for (let i = 0; i < 40; i++)
      await database.materials.create({ id: `m${String(i)}`, projectId: 'p', title: 'T', text: 'x'.repeat(20_000) });
    let writes = 0;
    const until = new AbortController();
    const writer = (async () => {
      // A revision goes with each text: a copy between the two would show it.
      for (; !until.signal.aborted; writes++)
        await database.transaction(async (transaction) => {
          const where = { id: `m${String(writes % 40)}` };
          await database.materials.update({ revision: writes + 2 }, { where, transaction });
          await database.revisions.create(
            { materialId: where.id, number: writes + 2, text: 'y'.repeat(20_000), createdAt: new Date() },
            { transaction },
          );
        });
    })();
    const copies: string[] = [];
    for (let n = 0; n < 5; n++) {
      const to = join(folder, `copy-${String(n)}.sqlite`);
      expect(await backup(folder, to)).toBeGreaterThan(100_000);
      copies.push(to);
    }
    until.abort();
    await writer;
    expect(writes).toBeGreaterThan(5);
    await database.close();
    for (const [n, copy] of copies.entries()) {
      const other = join(folder, `restored-${String(n)}`);
      await restore(copy, other);
      const back = await openDatabase(join(other, DATABASE));
      for (const { id, revision } of await back.materials.findAll())
        if (revision > 1) expect(await back.revisions.count({ where: { materialId: id, number: revision } })).toBe(1);
      await back.close();
    }
    await expect(backup(folder, copies[0]!)).rejects.toThrow('is there already');
    await expect(restore(copies[0]!, folder)).rejects.toThrow('is not empty');
    writeFileSync(join(folder, 'torn.sqlite'), readFileSync(copies[0]!).subarray(0, 90_000));
    await expect(restore(join(folder, 'torn.sqlite'), join(folder, 'new'))).rejects.toThrow('is not a complete backup');
    await expect(backup(join(folder, 'none'), join(folder, 'x'))).rejects.toThrow('no database');
  }, 120_000);
});
