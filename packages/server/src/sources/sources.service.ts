import { createHash, randomUUID } from 'node:crypto';
import { Inject, Injectable } from '@nestjs/common';
import { Sequelize, UniqueConstraintError } from 'sequelize';
import { nameTaken, notAnImage, notFound } from '../http/problem.ts';
import { ProjectsService } from '../projects/projects.service.ts';
import { BlobRow, SourceRow } from '../storage/models.ts';
import { WriteQueue } from '../storage/write-queue.ts';

/** A source as the API shows it; its bytes are at /api/sources/:id/content. */
export interface SourceView {
  readonly id: string;
  readonly projectId: string;
  readonly name: string;
  readonly mime: string;
  readonly width: number;
  readonly height: number;
  readonly hash: string;
}

const PNG_SIGNATURE = Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]);

/** Width and height from a PNG's header chunk, or undefined where the bytes are none. */
export function pngSize(bytes: Buffer): { width: number; height: number } | undefined {
  if (bytes.length < 33 || !bytes.subarray(0, 8).equals(PNG_SIGNATURE) || bytes.toString('latin1', 12, 16) !== 'IHDR') return undefined;
  const size = { width: bytes.readUInt32BE(16), height: bytes.readUInt32BE(20) };
  return size.width > 0 && size.height > 0 ? size : undefined;
}

@Injectable()
export class SourcesService {
  constructor(
    @Inject(Sequelize) readonly sequelize: Sequelize,
    @Inject(WriteQueue) readonly queue: WriteQueue,
    @Inject(ProjectsService) readonly projects: ProjectsService,
  ) {}

  async list(projectId: string): Promise<SourceView[]> {
    await this.projects.row(projectId);
    return (await SourceRow.findAll({ where: { projectId }, order: [['name', 'ASC']] })).map(view);
  }

  /** Stores a PNG under a name; the same bytes are kept once, however often they are used. */
  async create(projectId: string, name: string, bytes: Buffer): Promise<SourceView> {
    const size = pngSize(bytes);
    if (!size) throw notAnImage(name);
    const hash = createHash('sha256').update(bytes).digest('hex');
    try {
      return await this.queue.run(async () => {
        await this.projects.row(projectId);
        return this.sequelize.transaction(async (transaction) => {
          await BlobRow.findOrCreate({ where: { hash }, defaults: { hash, bytes }, transaction });
          return view(await SourceRow.create({ id: randomUUID(), projectId, name, mime: 'image/png', ...size, hash }, { transaction }));
        });
      });
    } catch (error) {
      if (error instanceof UniqueConstraintError) throw nameTaken(name);
      throw error;
    }
  }

  async content(id: string): Promise<{ mime: string; hash: string; bytes: Buffer }> {
    const row = await SourceRow.findByPk(id);
    const blob = row && (await BlobRow.findByPk(row.hash));
    if (!blob) throw notFound('source');
    return { mime: row.mime, hash: row.hash, bytes: blob.bytes };
  }
}

function view({ id, projectId, name, mime, width, height, hash }: SourceRow): SourceView {
  return { id, projectId, name, mime, width, height, hash };
}
