import type { MeshBody, NewMesh, PageQuery, StoredMesh } from '@estela/contract';
import { randomUUID } from 'node:crypto';
import { Inject, Injectable } from '@nestjs/common';
import type { Transaction } from 'sequelize';
import { ToldWrites } from '../events/told-writes.ts';
import { requireMatch } from '../http/etag.ts';
import type { Page } from '../http/paged.ts';
import { invalid, notFound } from '../http/problem.ts';
import { ProjectsService } from '../projects/projects.service.ts';
import type { Content } from '../http/content.ts';
import { keepBytes, readBytes, readParts, storedIn, type Incoming } from '../storage/blobs.ts';
import { Database } from '../storage/database.ts';
import { update } from '../storage/guarded.ts';
import type { MeshRow } from '../storage/models.ts';
import { pageOf } from '../storage/pages.ts';
import { MeshReader } from './mesh-reader.ts';
import { why } from '../http/wording.ts';

/** A GLB that was read through and can be kept. */
interface Checked {
  readonly bytes: Incoming;
  readonly triangles: number;
}

@Injectable()
export class MeshesService {
  constructor(
    @Inject(Database) readonly database: Database,
    @Inject(ProjectsService) readonly projects: ProjectsService,
    @Inject(MeshReader) readonly reader: MeshReader,
    @Inject(ToldWrites) readonly writes: ToldWrites,
  ) {}

  async list(projectId: string): Promise<readonly StoredMesh[]> {
    return (await this.page(projectId, {})).items;
  }

  async page(projectId: string, query: PageQuery): Promise<Page<StoredMesh>> {
    await this.projects.row(projectId);
    return pageOf(this.database.meshes, { projectId }, ['name', 'id'], query, view);
  }

  async get(id: string): Promise<StoredMesh> {
    return view(await this.#row(id));
  }

  /** Stores a GLB under a name, or another mesh of one that is stored already. */
  async create(projectId: string, body: NewMesh, file: Incoming | undefined): Promise<StoredMesh> {
    const checked = await this.#checked(body, body.name, file);
    if (!checked) throw invalid(why.needsGlb);
    return this.#write(body.name, 'made', async (transaction) => {
      await this.projects.row(projectId);
      return this.database.meshes.create(
        { id: body.id ?? randomUUID(), projectId, name: body.name, ...(await this.#kept(checked, transaction)) },
        { transaction },
      );
    });
  }

  async change(id: string, body: MeshBody, file: Incoming | undefined, match: string | undefined): Promise<StoredMesh> {
    const checked = await this.#checked(body, body.name ?? 'This mesh', file);
    return this.#write(body.name ?? '', 'changed', async (transaction) => {
      const row = await this.#row(id);
      const name = body.name ?? row.name;
      const content = checked ? await this.#kept(checked, transaction) : undefined;
      const isStored = name === row.name && (content?.hash ?? row.hash) === row.hash;
      requireMatch(match, row.version, 'mesh', isStored);
      return isStored ? row : update(row, { ...content, name }, { what: 'mesh', transaction });
    });
  }

  remove(id: string, match: string | undefined): Promise<void> {
    return this.writes.remove('mesh', () => this.#row(id), match);
  }

  /** What a mesh's GLB is, and a way to read it. */
  async content(id: string): Promise<Content> {
    const { hash, size } = await this.#row(id);
    return {
      mime: 'model/gltf-binary',
      hash,
      size,
      read: (first, last) => readParts(this.database, hash, first, last),
    };
  }

  /** All of a mesh's GLB. */
  async bytes(id: string): Promise<Buffer> {
    return readBytes(this.database, (await this.#row(id)).hash);
  }

  async #write(
    name: string,
    change: 'made' | 'changed',
    write: (transaction: Transaction) => Promise<MeshRow>,
  ): Promise<StoredMesh> {
    return view(await this.writes.write('mesh', name, change, () => this.database.transaction(write)));
  }

  /** Reads a file through before anything is written; undefined where there is none. */
  async #checked({ hash }: MeshBody, name: string, file: Incoming | undefined): Promise<Checked | undefined> {
    const bytes = file ?? (hash === undefined ? undefined : await storedIn(this.database, hash));
    if (!bytes && hash !== undefined) throw notFound('mesh');
    return bytes && { bytes, triangles: await this.reader.triangles(name, bytes) };
  }

  async #kept(
    { bytes, triangles }: Checked,
    transaction: Transaction,
  ): Promise<{ hash: string; size: number; triangles: number }> {
    await keepBytes(this.database, bytes, transaction);
    return { hash: bytes.hash, size: bytes.size, triangles };
  }

  async #row(id: string): Promise<MeshRow> {
    const row = await this.database.meshes.findByPk(id);
    if (!row) throw notFound('mesh');
    return row;
  }
}

function view({ id, projectId, name, hash, size, triangles, version, updatedAt }: MeshRow): StoredMesh {
  return { id, projectId, name, hash, size, triangles, version, updatedAt: updatedAt.toISOString() };
}
