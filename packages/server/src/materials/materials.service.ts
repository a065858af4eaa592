import type { Material, PageQuery, ProjectEvent, Revision } from '@estela/contract';
import { randomUUID } from 'node:crypto';
import { parse, titleOf } from '@estela/core';
import { Inject, Injectable } from '@nestjs/common';
import { EventsService } from '../events/events.service.ts';
import { requireMatch } from '../http/etag.ts';
import type { Page } from '../http/paged.ts';
import { notFound } from '../http/problem.ts';
import { ProjectsService } from '../projects/projects.service.ts';
import type { MaterialRow } from '../storage/models.ts';
import { Database } from '../storage/database.ts';
import { update } from '../storage/guarded.ts';
import { pageOf } from '../storage/pages.ts';
import { WriteQueue } from '../storage/write-queue.ts';

const GUARD = { what: 'material', counter: 'revision' } as const;

const titleFor = (text: string): string => {
  const title = titleOf(parse(text))?.trim() ?? '';
  return title === '' ? 'Untitled' : title.slice(0, 200);
};

@Injectable()
export class MaterialsService {
  constructor(
    @Inject(Database) readonly database: Database,
    @Inject(WriteQueue) readonly queue: WriteQueue,
    @Inject(ProjectsService) readonly projects: ProjectsService,
    @Inject(EventsService) readonly events: EventsService,
  ) {}

  async list(projectId: string): Promise<readonly Material[]> {
    return (await this.page(projectId, {})).items;
  }

  async page(projectId: string, query: PageQuery): Promise<Page<Material>> {
    await this.projects.row(projectId);
    const where = { projectId, deletedAt: null };
    return pageOf(this.database.materials, where, ['createdAt', 'title', 'id'], query, view);
  }

  async get(id: string): Promise<Material> {
    return view(await this.#row(id));
  }

  async create(projectId: string, text: string): Promise<Material> {
    const made = await this.queue.run(async () => {
      await this.projects.row(projectId);
      return this.database.transaction(async (transaction) => {
        const row = await this.database.materials.create(
          { id: randomUUID(), projectId, title: titleFor(text), text },
          { transaction },
        );
        await this.database.revisions.create({ materialId: row.id, number: row.revision, text }, { transaction });
        return view(row);
      });
    });
    this.#tell(made, 'made');
    return made;
  }

  /** Saves a new revision; the same text again makes none. */
  save(id: string, text: string, match: string | undefined): Promise<Material> {
    return this.queue.run(async () => {
      const row = await this.#row(id);
      requireMatch(match, row.revision, 'material', row.text === text);
      if (row.text === text) return view(row);
      const saved = await this.database.transaction(async (transaction) => {
        await update(row, { text, title: titleFor(text) }, { ...GUARD, transaction });
        await this.database.revisions.create({ materialId: id, number: row.revision, text }, { transaction });
        return view(row);
      });
      this.#tell(saved, 'changed');
      return saved;
    });
  }

  remove(id: string, match: string | undefined): Promise<void> {
    return this.queue.run(async () => {
      const row = await this.#row(id);
      requireMatch(match, row.revision, 'material');
      await update(row, { deletedAt: new Date() }, { ...GUARD, next: row.revision });
      this.#tell(row, 'deleted');
    });
  }

  restore(id: string): Promise<Material> {
    return this.queue.run(async () => {
      const row = await this.database.materials.findByPk(id);
      if (!row) throw notFound('material');
      await row.update({ deletedAt: null });
      this.#tell(row, 'made');
      return view(row);
    });
  }

  async revisions(id: string): Promise<Revision[]> {
    await this.#row(id);
    const rows = await this.database.revisions.findAll({
      where: { materialId: id },
      attributes: ['number', 'name', 'createdAt'],
      order: [['number', 'DESC']],
    });
    return rows.map((r) => ({ number: r.number, name: r.name, createdAt: r.createdAt.toISOString() }));
  }

  async revision(id: string, number: number): Promise<Revision> {
    const row = await this.database.revisions.findOne({ where: { materialId: id, number } });
    if (!row) throw notFound('revision');
    return { number: row.number, name: row.name, createdAt: row.createdAt.toISOString(), text: row.text };
  }

  nameRevision(id: string, number: number, name: string): Promise<Revision> {
    return this.queue.run(async () => {
      const row = await this.database.revisions.findOne({ where: { materialId: id, number } });
      if (!row) throw notFound('revision');
      await row.update({ name });
      return { number, name, createdAt: row.createdAt.toISOString(), text: row.text };
    });
  }

  #tell(
    { projectId, id, revision }: Pick<Material, 'projectId' | 'id' | 'revision'>,
    change: ProjectEvent['change'],
  ): void {
    this.events.tell({ projectId, kind: 'material', id, version: revision, change });
  }

  async #row(id: string): Promise<MaterialRow> {
    const row = await this.database.materials.findOne({ where: { id, deletedAt: null } });
    if (!row) throw notFound('material');
    return row;
  }
}

function view(row: MaterialRow): Material {
  const { id, projectId, title, text, revision } = row;
  return {
    id,
    projectId,
    title,
    text,
    revision,
    createdAt: row.createdAt.toISOString(),
    updatedAt: row.updatedAt.toISOString(),
  };
}
