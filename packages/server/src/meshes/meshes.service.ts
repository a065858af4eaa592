import type { MeshBody, NewMesh, StoredMesh } from '@estela/contract';
import { randomUUID } from 'node:crypto';
import { Inject, Injectable } from '@nestjs/common';
import { Sequelize, UniqueConstraintError, type Transaction } from 'sequelize';
import { requireMatch } from '../http/etag.ts';
import { invalid, nameTaken, notFound } from '../http/problem.ts';
import { ProjectsService } from '../projects/projects.service.ts';
import { keepBytes } from '../storage/blobs.ts';
import { destroy, update } from '../storage/guarded.ts';
import { BlobRow, MeshRow } from '../storage/models.ts';
import { WriteQueue } from '../storage/write-queue.ts';
import { MeshReader } from './mesh-reader.ts';

/** A GLB that was read through and can be kept. */
interface Checked {
  readonly bytes: Buffer;
  readonly triangles: number;
}

@Injectable()
export class MeshesService {
  constructor(
    @Inject(Sequelize) readonly sequelize: Sequelize,
    @Inject(WriteQueue) readonly queue: WriteQueue,
    @Inject(ProjectsService) readonly projects: ProjectsService,
    @Inject(MeshReader) readonly reader: MeshReader,
  ) {}

  async list(projectId: string): Promise<StoredMesh[]> {
    await this.projects.row(projectId);
    return (await MeshRow.findAll({ where: { projectId }, order: [['name', 'ASC']] })).map(view);
  }

  async get(id: string): Promise<StoredMesh> {
    return view(await this.#row(id));
  }

  /** Stores a GLB under a name, or another mesh of one that is stored already. */
  async create(projectId: string, body: NewMesh, bytes: Buffer | undefined): Promise<StoredMesh> {
    const checked = await this.#checked(body, body.name, bytes);
    if (!checked) throw invalid('Send a GLB file, or the hash of one that is stored.');
    return this.#write(body.name, async (transaction) => {
      await this.projects.row(projectId);
      return MeshRow.create(
        { id: body.id ?? randomUUID(), projectId, name: body.name, ...(await kept(checked, transaction)) },
        { transaction },
      );
    });
  }

  async change(id: string, body: MeshBody, bytes: Buffer | undefined, match: string | undefined): Promise<StoredMesh> {
    const checked = await this.#checked(body, body.name ?? 'This mesh', bytes);
    return this.#write(body.name ?? '', async (transaction) => {
      const row = await this.#row(id);
      const name = body.name ?? row.name;
      const content = checked ? await kept(checked, transaction) : undefined;
      const isStored = name === row.name && (content?.hash ?? row.hash) === row.hash;
      requireMatch(match, row.version, 'mesh', isStored);
      return isStored ? row : update(row, { ...content, name }, { what: 'mesh', transaction });
    });
  }

  remove(id: string, match: string | undefined): Promise<void> {
    return this.queue.run(async () => {
      const row = await this.#row(id);
      requireMatch(match, row.version, 'mesh');
      await destroy(row, { what: 'mesh' });
    });
  }

  async content(id: string): Promise<{ hash: string; bytes: Buffer }> {
    const { hash } = await this.#row(id);
    const blob = await BlobRow.findByPk(hash);
    if (!blob) throw notFound('mesh');
    return { hash, bytes: blob.bytes };
  }

  async #write(name: string, write: (transaction: Transaction) => Promise<MeshRow>): Promise<StoredMesh> {
    try {
      return view(await this.queue.run(() => this.sequelize.transaction(write)));
    } catch (error) {
      if (error instanceof UniqueConstraintError) throw nameTaken(name, 'mesh');
      throw error;
    }
  }

  /** Reads a file through before anything is written; undefined where there is none. */
  async #checked({ hash }: MeshBody, name: string, file: Buffer | undefined): Promise<Checked | undefined> {
    const stored = hash === undefined || file ? undefined : await BlobRow.findByPk(hash);
    if (hash !== undefined && !file && !stored) throw notFound('mesh');
    const bytes = file ?? stored?.bytes;
    if (!bytes) return undefined;
    return { bytes, triangles: await this.reader.triangles(name, bytes) };
  }

  async #row(id: string): Promise<MeshRow> {
    const row = await MeshRow.findByPk(id);
    if (!row) throw notFound('mesh');
    return row;
  }
}

const kept = async (
  { bytes, triangles }: Checked,
  transaction: Transaction,
): Promise<{ hash: string; size: number; triangles: number }> => ({
  hash: await keepBytes(bytes, transaction),
  size: bytes.length,
  triangles,
});

function view({ id, projectId, name, hash, size, triangles, version, updatedAt }: MeshRow): StoredMesh {
  return { id, projectId, name, hash, size, triangles, version, updatedAt: updatedAt.toISOString() };
}
