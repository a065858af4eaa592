import {
  DataTypes,
  Model,
  type CreationOptional,
  type ForeignKey,
  type InferAttributes,
  type InferCreationAttributes,
  type ModelStatic,
  type Sequelize,
} from 'sequelize';
import type { BakeState } from '@estela/contract';

export class ProjectRow extends Model<InferAttributes<ProjectRow>, InferCreationAttributes<ProjectRow>> {
  declare id: string;
  declare name: string;
  declare notes: CreationOptional<string>;
  declare version: CreationOptional<number>;
  declare createdAt: CreationOptional<Date>;
  declare updatedAt: CreationOptional<Date>;
}

export class MaterialRow extends Model<InferAttributes<MaterialRow>, InferCreationAttributes<MaterialRow>> {
  declare id: string;
  declare projectId: ForeignKey<string>;
  declare title: string;
  declare text: string;
  declare revision: CreationOptional<number>;
  /** When it was deleted; it can be had back until it is dropped at a later start. */
  declare deletedAt: CreationOptional<Date | null>;
  declare createdAt: CreationOptional<Date>;
  declare updatedAt: CreationOptional<Date>;
}

export class RevisionRow extends Model<InferAttributes<RevisionRow>, InferCreationAttributes<RevisionRow>> {
  declare id: CreationOptional<number>;
  declare materialId: ForeignKey<string>;
  declare number: number;
  declare text: string;
  /** What its author calls it; empty for most. */
  declare name: CreationOptional<string>;
  declare createdAt: CreationOptional<Date>;
}

export class BlobRow extends Model<InferAttributes<BlobRow>, InferCreationAttributes<BlobRow>> {
  /** SHA-256 of the bytes, in hex. */
  declare hash: string;
  /** How many there are. */
  declare size: number;
  declare createdAt: CreationOptional<Date>;
}

/** A stretch of bytes that are kept, so that they are written and read as streams. */
export class PartRow extends Model<InferAttributes<PartRow>, InferCreationAttributes<PartRow>> {
  declare hash: string;
  /** From 0, in order. */
  declare number: number;
  declare bytes: Buffer;
}

export class SourceRow extends Model<InferAttributes<SourceRow>, InferCreationAttributes<SourceRow>> {
  declare id: string;
  declare projectId: ForeignKey<string>;
  declare name: string;
  declare mime: string;
  declare width: number;
  declare height: number;
  declare hash: ForeignKey<string>;
  /** Bits a channel: 8 or 16. */
  declare bits: CreationOptional<8 | 16>;
  /** Length of the file in bytes. */
  declare size: CreationOptional<number>;
  /** What it was made by, as JSON; null for a file that was brought in. */
  declare recipe: CreationOptional<string | null>;
  declare version: CreationOptional<number>;
  declare createdAt: CreationOptional<Date>;
  declare updatedAt: CreationOptional<Date>;
}

export class MeshRow extends Model<InferAttributes<MeshRow>, InferCreationAttributes<MeshRow>> {
  declare id: string;
  declare projectId: ForeignKey<string>;
  declare name: string;
  declare hash: ForeignKey<string>;
  /** Length of its GLB in bytes. */
  declare size: number;
  declare triangles: number;
  declare version: CreationOptional<number>;
  declare createdAt: CreationOptional<Date>;
  declare updatedAt: CreationOptional<Date>;
}

export class SetRow extends Model<InferAttributes<SetRow>, InferCreationAttributes<SetRow>> {
  declare id: string;
  declare projectId: ForeignKey<string>;
  declare name: string;
  /** What stands on it and how it is lit, as JSON. */
  declare body: string;
  declare version: CreationOptional<number>;
  declare createdAt: CreationOptional<Date>;
  declare updatedAt: CreationOptional<Date>;
}

export class BakeRow extends Model<InferAttributes<BakeRow>, InferCreationAttributes<BakeRow>> {
  declare id: string;
  declare projectId: ForeignKey<string>;
  /** The material may be gone: a bake carries what it is made of. */
  declare materialId: string;
  declare title: string;
  declare revision: number;
  declare text: string;
  /** As JSON. */
  declare recipe: string;
  declare signature: string;
  declare state: BakeState;
  /** Frames that are computed, and how many there are. */
  declare done: CreationOptional<number>;
  declare total: number;
  declare problem: CreationOptional<string | null>;
  /** Of the file that comes of it. */
  declare name: string;
  declare mime: string;
  declare size: CreationOptional<number | null>;
  declare hash: CreationOptional<string | null>;
  /** A small PNG of its first frame. */
  declare picture: CreationOptional<Buffer | null>;
  declare version: CreationOptional<number>;
  declare createdAt: CreationOptional<Date>;
  declare startedAt: CreationOptional<Date | null>;
  declare finishedAt: CreationOptional<Date | null>;
  declare updatedAt: CreationOptional<Date>;
}

/** A band of a bake that is computed, until all are. */
export class BandRow extends Model<InferAttributes<BandRow>, InferCreationAttributes<BandRow>> {
  declare bakeId: ForeignKey<string>;
  /** Its place in the plan. */
  declare number: number;
  declare adler: number;
  /** Bytes before they were compressed. */
  declare length: number;
  declare bytes: Buffer;
}

/** An image that a bake reads, by its content. */
export class BakeImageRow extends Model<InferAttributes<BakeImageRow>, InferCreationAttributes<BakeImageRow>> {
  declare bakeId: ForeignKey<string>;
  declare name: string;
  declare hash: ForeignKey<string>;
}

// Sequelize writes into the objects it is given, so that each column needs one of its own.
const text = () => ({ type: DataTypes.TEXT, allowNull: false });
const integer = () => ({ type: DataTypes.INTEGER, allowNull: false });
const date = () => ({ type: DataTypes.DATE, allowNull: false });
const key = () => ({ type: DataTypes.TEXT, primaryKey: true });
const times = () => ({ createdAt: date(), updatedAt: date() });

/** The tables of one database, as models. */
export interface Tables {
  readonly projects: ModelStatic<ProjectRow>;
  readonly materials: ModelStatic<MaterialRow>;
  readonly revisions: ModelStatic<RevisionRow>;
  readonly blobs: ModelStatic<BlobRow>;
  readonly parts: ModelStatic<PartRow>;
  readonly sources: ModelStatic<SourceRow>;
  readonly meshes: ModelStatic<MeshRow>;
  readonly sets: ModelStatic<SetRow>;
  readonly bakes: ModelStatic<BakeRow>;
  readonly bands: ModelStatic<BandRow>;
  readonly bakeImages: ModelStatic<BakeImageRow>;
}

/**
 * Makes models for a database: classes of its own, so that two in one process do not meet. The tables themselves are
 * made by migrations.
 */
export function tablesOf(sequelize: Sequelize): Tables {
  const projects = class extends ProjectRow {};
  projects.init(
    {
      id: key(),
      name: text(),
      notes: { ...text(), defaultValue: '' },
      version: { ...integer(), defaultValue: 1 },
      ...times(),
    },
    { sequelize, tableName: 'projects' },
  );
  const materials = class extends MaterialRow {};
  materials.init(
    {
      id: key(),
      projectId: text(),
      title: text(),
      text: text(),
      revision: { ...integer(), defaultValue: 1 },
      deletedAt: { type: DataTypes.DATE, allowNull: true },
      ...times(),
    },
    { sequelize, tableName: 'materials' },
  );
  const revisions = class extends RevisionRow {};
  revisions.init(
    {
      id: { ...integer(), primaryKey: true, autoIncrement: true },
      materialId: text(),
      number: integer(),
      text: text(),
      name: { ...text(), defaultValue: '' },
      createdAt: date(),
    },
    { sequelize, tableName: 'revisions', updatedAt: false },
  );
  const blobs = class extends BlobRow {};
  blobs.init({ hash: key(), size: integer(), createdAt: date() }, { sequelize, tableName: 'blobs', updatedAt: false });
  const parts = class extends PartRow {};
  parts.init(
    { hash: key(), number: { ...integer(), primaryKey: true }, bytes: { type: DataTypes.BLOB, allowNull: false } },
    { sequelize, tableName: 'parts', timestamps: false },
  );
  const sources = class extends SourceRow {};
  sources.init(
    {
      id: key(),
      projectId: text(),
      name: text(),
      mime: text(),
      width: integer(),
      height: integer(),
      hash: text(),
      bits: { ...integer(), defaultValue: 8 },
      size: { ...integer(), defaultValue: 0 },
      recipe: { type: DataTypes.TEXT, allowNull: true },
      version: { ...integer(), defaultValue: 1 },
      ...times(),
    },
    { sequelize, tableName: 'sources' },
  );
  const meshes = class extends MeshRow {};
  meshes.init(
    {
      id: key(),
      projectId: text(),
      name: text(),
      hash: text(),
      size: integer(),
      triangles: integer(),
      version: { ...integer(), defaultValue: 1 },
      ...times(),
    },
    { sequelize, tableName: 'meshes' },
  );
  const sets = class extends SetRow {};
  sets.init(
    {
      id: key(),
      projectId: text(),
      name: text(),
      body: text(),
      version: { ...integer(), defaultValue: 1 },
      ...times(),
    },
    { sequelize, tableName: 'sets' },
  );
  const none = (type: typeof DataTypes.TEXT | typeof DataTypes.INTEGER | typeof DataTypes.DATE) => ({
    type,
    allowNull: true,
  });
  const bakes = class extends BakeRow {};
  bakes.init(
    {
      id: key(),
      projectId: text(),
      materialId: text(),
      title: text(),
      revision: integer(),
      text: text(),
      recipe: text(),
      signature: text(),
      state: text(),
      done: { type: DataTypes.REAL, allowNull: false, defaultValue: 0 },
      total: integer(),
      problem: none(DataTypes.TEXT),
      name: text(),
      mime: text(),
      size: none(DataTypes.INTEGER),
      hash: none(DataTypes.TEXT),
      picture: { type: DataTypes.BLOB, allowNull: true },
      version: { ...integer(), defaultValue: 1 },
      startedAt: none(DataTypes.DATE),
      finishedAt: none(DataTypes.DATE),
      ...times(),
    },
    // Pictures and texts are read where they are asked for.
    { sequelize, tableName: 'bakes', defaultScope: { attributes: { exclude: ['picture', 'text'] } } },
  );
  const bands = class extends BandRow {};
  bands.init(
    {
      bakeId: { ...text(), primaryKey: true },
      number: { ...integer(), primaryKey: true },
      adler: integer(),
      length: integer(),
      bytes: { type: DataTypes.BLOB, allowNull: false },
    },
    { sequelize, tableName: 'bands', timestamps: false },
  );
  const bakeImages = class extends BakeImageRow {};
  bakeImages.init(
    { bakeId: { ...text(), primaryKey: true }, name: { ...text(), primaryKey: true }, hash: text() },
    { sequelize, tableName: 'bakeImages', timestamps: false },
  );
  return { projects, materials, revisions, blobs, parts, sources, meshes, sets, bakes, bands, bakeImages };
}
