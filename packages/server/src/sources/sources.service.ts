import type { Recipe, Source, SourceBody } from '@estela/contract';
import { randomUUID } from 'node:crypto';
import { ImageRefused, readHeader, type ImageHeader } from '@estela/codecs';
import { Inject, Injectable } from '@nestjs/common';
import { Sequelize, UniqueConstraintError, type Transaction } from 'sequelize';
import { requireMatch } from '../http/etag.ts';
import { imageRefused, nameTaken, noImage, notFound } from '../http/problem.ts';
import { ProjectsService } from '../projects/projects.service.ts';
import { keepBytes } from '../storage/blobs.ts';
import { destroy, update } from '../storage/guarded.ts';
import { BlobRow, SourceRow } from '../storage/models.ts';
import { WriteQueue } from '../storage/write-queue.ts';

/** What is stored of a picture: its bytes under their hash, and what its header says. */
interface Picture {
  readonly hash: string;
  readonly mime: string;
  readonly width: number;
  readonly height: number;
  readonly bits: 8 | 16;
  readonly size: number;
}

@Injectable()
export class SourcesService {
  constructor(
    @Inject(Sequelize) readonly sequelize: Sequelize,
    @Inject(WriteQueue) readonly queue: WriteQueue,
    @Inject(ProjectsService) readonly projects: ProjectsService,
  ) {}

  async list(projectId: string): Promise<Source[]> {
    await this.projects.row(projectId);
    return (await SourceRow.findAll({ where: { projectId }, order: [['name', 'ASC']] })).map(view);
  }

  async get(id: string): Promise<Source> {
    return view(await this.#row(id));
  }

  /** Stores a picture under a name; the same bytes are kept once, however often they are used. */
  create(projectId: string, body: SourceBody & { readonly name: string }, bytes: Buffer | undefined): Promise<Source> {
    return this.#write(body.name, async (transaction) => {
      await this.projects.row(projectId);
      const picture = await this.#picture(body.name, body.hash, bytes, transaction);
      if (!picture) throw noImage();
      const recipe = body.recipe ? JSON.stringify(body.recipe) : null;
      return SourceRow.create({ id: randomUUID(), projectId, name: body.name, recipe, ...picture }, { transaction });
    });
  }

  /** Gives a source another picture, name or recipe; whatever is left out stays. */
  change(id: string, body: SourceBody, bytes: Buffer | undefined, match: string | undefined): Promise<Source> {
    return this.#write(body.name ?? '', async (transaction) => {
      const row = await this.#row(id);
      const name = body.name ?? row.name;
      const picture = await this.#picture(name, body.hash, bytes, transaction);
      const recipe = body.recipe === undefined ? row.recipe : body.recipe && JSON.stringify(body.recipe);
      const isStored = name === row.name && recipe === row.recipe && (picture?.hash ?? row.hash) === row.hash;
      // What the picture brought goes again with the transaction.
      requireMatch(match, row.version, 'source', isStored);
      return isStored ? row : update(row, { ...picture, name, recipe }, { what: 'source', transaction });
    });
  }

  remove(id: string, match: string | undefined): Promise<void> {
    return this.queue.run(async () => {
      const row = await this.#row(id);
      requireMatch(match, row.version, 'source');
      await destroy(row, { what: 'source' });
    });
  }

  async content(id: string): Promise<{ mime: string; hash: string; bytes: Buffer }> {
    const row = await this.#row(id);
    const blob = await BlobRow.findByPk(row.hash);
    if (!blob) throw notFound('source');
    return { mime: row.mime, hash: row.hash, bytes: blob.bytes };
  }

  async #write(name: string, write: (transaction: Transaction) => Promise<SourceRow>): Promise<Source> {
    try {
      return view(await this.queue.run(() => this.sequelize.transaction(write)));
    } catch (error) {
      if (error instanceof UniqueConstraintError) throw nameTaken(name);
      throw error;
    }
  }

  /** Takes in a file, or finds the one with a hash; undefined where neither is given. */
  async #picture(
    name: string,
    known: string | undefined,
    bytes: Buffer | undefined,
    transaction: Transaction,
  ): Promise<Picture | undefined> {
    const stored = known === undefined || bytes ? undefined : await BlobRow.findByPk(known, { transaction });
    if (known !== undefined && !bytes && !stored) throw notFound('picture');
    const content = bytes ?? stored?.bytes;
    if (!content) return undefined;
    let header: ImageHeader;
    try {
      header = readHeader(content);
    } catch (error) {
      if (error instanceof ImageRefused) throw imageRefused(name, error);
      throw error;
    }
    const hash = stored?.hash ?? (await keepBytes(content, transaction));
    const { mime, width, height, bits } = header;
    return { hash, mime, width, height, bits, size: content.length };
  }

  async #row(id: string): Promise<SourceRow> {
    const row = await SourceRow.findByPk(id);
    if (!row) throw notFound('source');
    return row;
  }
}

function view(row: SourceRow): Source {
  const { id, projectId, name, mime, width, height, bits, size, hash, version } = row;
  const recipe = row.recipe ? (JSON.parse(row.recipe) as Recipe) : null;
  return {
    id,
    projectId,
    name,
    mime,
    width,
    height,
    bits,
    size,
    hash,
    recipe,
    version,
    updatedAt: row.updatedAt.toISOString(),
  };
}
