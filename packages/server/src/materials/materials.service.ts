import type { Material, Revision } from '@estela/contract';
import { randomUUID } from 'node:crypto';
import { parse, titleOf } from '@estela/core';
import { Inject, Injectable } from '@nestjs/common';
import { Sequelize } from 'sequelize';
import { requireMatch } from '../http/etag.ts';
import { notFound } from '../http/problem.ts';
import { ProjectsService } from '../projects/projects.service.ts';
import { MaterialRow, RevisionRow } from '../storage/models.ts';
import { update } from '../storage/guarded.ts';
import { WriteQueue } from '../storage/write-queue.ts';

const GUARD = { what: 'material', counter: 'revision' } as const;

const titleFor = (text: string): string => {
  const title = titleOf(parse(text))?.trim() ?? '';
  return title === '' ? 'Untitled' : title.slice(0, 200);
};

@Injectable()
export class MaterialsService {
  constructor(
    @Inject(Sequelize) readonly sequelize: Sequelize,
    @Inject(WriteQueue) readonly queue: WriteQueue,
    @Inject(ProjectsService) readonly projects: ProjectsService,
  ) {}

  async list(projectId: string): Promise<Material[]> {
    await this.projects.row(projectId);
    const rows = await MaterialRow.findAll({
      where: { projectId, deletedAt: null },
      order: [
        ['createdAt', 'ASC'],
        ['title', 'ASC'],
      ],
    });
    return rows.map(view);
  }

  async get(id: string): Promise<Material> {
    return view(await this.#row(id));
  }

  create(projectId: string, text: string): Promise<Material> {
    return this.queue.run(async () => {
      await this.projects.row(projectId);
      return this.sequelize.transaction(async (transaction) => {
        const row = await MaterialRow.create(
          { id: randomUUID(), projectId, title: titleFor(text), text },
          { transaction },
        );
        await RevisionRow.create({ materialId: row.id, number: row.revision, text }, { transaction });
        return view(row);
      });
    });
  }

  /** Saves a new revision; the same text again makes none. */
  save(id: string, text: string, match: string | undefined): Promise<Material> {
    return this.queue.run(async () => {
      const row = await this.#row(id);
      requireMatch(match, row.revision, 'material', row.text === text);
      if (row.text === text) return view(row);
      return this.sequelize.transaction(async (transaction) => {
        await update(row, { text, title: titleFor(text) }, { ...GUARD, transaction });
        await RevisionRow.create({ materialId: id, number: row.revision, text }, { transaction });
        return view(row);
      });
    });
  }

  remove(id: string, match: string | undefined): Promise<void> {
    return this.queue.run(async () => {
      const row = await this.#row(id);
      requireMatch(match, row.revision, 'material');
      await update(row, { deletedAt: new Date() }, { ...GUARD, next: row.revision });
    });
  }

  restore(id: string): Promise<Material> {
    return this.queue.run(async () => {
      const row = await MaterialRow.findByPk(id);
      if (!row) throw notFound('material');
      await row.update({ deletedAt: null });
      return view(row);
    });
  }

  async revisions(id: string): Promise<Revision[]> {
    await this.#row(id);
    const rows = await RevisionRow.findAll({
      where: { materialId: id },
      attributes: ['number', 'name', 'createdAt'],
      order: [['number', 'DESC']],
    });
    return rows.map((r) => ({ number: r.number, name: r.name, createdAt: r.createdAt.toISOString() }));
  }

  async revision(id: string, number: number): Promise<Revision> {
    const row = await RevisionRow.findOne({ where: { materialId: id, number } });
    if (!row) throw notFound('revision');
    return { number: row.number, name: row.name, createdAt: row.createdAt.toISOString(), text: row.text };
  }

  nameRevision(id: string, number: number, name: string): Promise<Revision> {
    return this.queue.run(async () => {
      const row = await RevisionRow.findOne({ where: { materialId: id, number } });
      if (!row) throw notFound('revision');
      await row.update({ name });
      return { number, name, createdAt: row.createdAt.toISOString(), text: row.text };
    });
  }

  async #row(id: string): Promise<MaterialRow> {
    const row = await MaterialRow.findOne({ where: { id, deletedAt: null } });
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
