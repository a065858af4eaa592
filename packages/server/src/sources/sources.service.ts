import type { PageQuery, Recipe, Source, SourceBody } from '@estela/contract';
import { randomUUID } from 'node:crypto';
import { BYTE_LIMIT, ImageRefused, readHeader, type ImageHeader } from '@estela/codecs';
import { Inject, Injectable } from '@nestjs/common';
import type { Transaction } from 'sequelize';
import { ToldWrites } from '../events/told-writes.ts';
import { requireMatch } from '../http/etag.ts';
import type { Page } from '../http/paged.ts';
import { imageRefused, noImage, notFound } from '../http/problem.ts';
import { ProjectsService } from '../projects/projects.service.ts';
import type { Content } from '../http/content.ts';
import { keepBytes, PART, readBytes, readParts, storedIn, type Incoming } from '../storage/blobs.ts';
import { Database } from '../storage/database.ts';
import { update } from '../storage/guarded.ts';
import type { SourceRow } from '../storage/models.ts';
import { pageOf } from '../storage/pages.ts';

/** A picture that was looked at, and may be kept. */
interface Picture {
  readonly bytes: Incoming;
  readonly header: PictureColumns;
}

/** What is stored of a picture beside its bytes: their hash, and what its header says. */
interface PictureColumns {
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
    @Inject(Database) readonly database: Database,
    @Inject(ProjectsService) readonly projects: ProjectsService,
    @Inject(ToldWrites) readonly writes: ToldWrites,
  ) {}

  async list(projectId: string): Promise<readonly Source[]> {
    return (await this.page(projectId, {})).items;
  }

  async page(projectId: string, query: PageQuery): Promise<Page<Source>> {
    await this.projects.row(projectId);
    return pageOf(this.database.sources, { projectId }, ['name', 'id'], query, view);
  }

  async get(id: string): Promise<Source> {
    return view(await this.#row(id));
  }

  /** Stores a picture under a name; the same bytes are kept once, however often they are used. */
  async create(
    projectId: string,
    body: SourceBody & { readonly name: string },
    file: Incoming | undefined,
  ): Promise<Source> {
    await this.projects.row(projectId);
    const picture = await this.#picture(body.name, body.hash, file);
    if (!picture) throw noImage();
    return this.#write(body.name, 'made', async (transaction) => {
      await this.projects.row(projectId);
      await keepBytes(this.database, picture.bytes, transaction);
      const recipe = body.recipe ? JSON.stringify(body.recipe) : null;
      return this.database.sources.create(
        { id: randomUUID(), projectId, name: body.name, recipe, ...picture.header },
        { transaction },
      );
    });
  }

  /** Gives a source another picture, name or recipe; whatever is left out stays. */
  async change(id: string, body: SourceBody, file: Incoming | undefined, match: string | undefined): Promise<Source> {
    const picture = await this.#picture(body.name ?? (await this.#row(id)).name, body.hash, file);
    return this.#write(body.name ?? '', 'changed', async (transaction) => {
      const row = await this.#row(id);
      const name = body.name ?? row.name;
      const recipe = body.recipe === undefined ? row.recipe : body.recipe && JSON.stringify(body.recipe);
      const isStored = name === row.name && recipe === row.recipe && (picture?.header.hash ?? row.hash) === row.hash;
      requireMatch(match, row.version, 'source', isStored);
      if (isStored) return row;
      if (picture) await keepBytes(this.database, picture.bytes, transaction);
      return update(row, { ...picture?.header, name, recipe }, { what: 'source', transaction });
    });
  }

  remove(id: string, match: string | undefined): Promise<void> {
    return this.writes.remove('source', () => this.#row(id), match);
  }

  /** What a source's file is, and a way to read it. */
  async content(id: string): Promise<Content> {
    const { mime, hash, size } = await this.#row(id);
    return { mime, hash, size, read: (first, last) => readParts(this.database, hash, first, last) };
  }

  /** All of a source's file. */
  async bytes(id: string): Promise<Buffer> {
    return readBytes(this.database, (await this.#row(id)).hash);
  }

  async #write(
    name: string,
    change: 'made' | 'changed',
    write: (transaction: Transaction) => Promise<SourceRow>,
  ): Promise<Source> {
    return view(await this.writes.write('source', name, change, () => this.database.transaction(write)));
  }

  /** Looks at a file, or at the one with a hash; undefined where neither is given. */
  async #picture(name: string, known: string | undefined, file: Incoming | undefined): Promise<Picture | undefined> {
    const bytes = file ?? (known === undefined ? undefined : await storedIn(this.database, known));
    if (!bytes && known !== undefined) throw notFound('picture');
    if (!bytes) return undefined;
    try {
      const { mime, width, height, bits } = await headerOf(bytes);
      return { bytes, header: { hash: bytes.hash, mime, width, height, bits, size: bytes.size } };
    } catch (error) {
      if (error instanceof ImageRefused) throw imageRefused(name, error);
      throw error;
    }
  }

  async #row(id: string): Promise<SourceRow> {
    const row = await this.database.sources.findByPk(id);
    if (!row) throw notFound('source');
    return row;
  }
}

/** Reads the header of a picture: from its first part, which all but a JPEG full of notes have it in. */
async function headerOf(bytes: Incoming): Promise<ImageHeader> {
  try {
    return readHeader(await bytes.read(0, PART));
  } catch (error) {
    if (bytes.size <= PART || bytes.size > BYTE_LIMIT) throw error;
    return readHeader(await bytes.read(0, bytes.size));
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
