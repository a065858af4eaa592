import type { Project, ProjectBody } from '@estela/contract';
import { randomUUID } from 'node:crypto';
import { Inject, Injectable } from '@nestjs/common';
import { requireMatch } from '../http/etag.ts';
import { notFound } from '../http/problem.ts';
import { destroy, update } from '../storage/guarded.ts';
import { MaterialRow, ProjectRow } from '../storage/models.ts';
import { WriteQueue } from '../storage/write-queue.ts';

@Injectable()
export class ProjectsService {
  constructor(@Inject(WriteQueue) readonly queue: WriteQueue) {}

  async list(): Promise<Project[]> {
    const rows = await ProjectRow.findAll({ order: [['createdAt', 'ASC']] });
    return Promise.all(rows.map((row) => this.#view(row)));
  }

  async get(id: string): Promise<Project> {
    return this.#view(await this.row(id));
  }

  async row(id: string): Promise<ProjectRow> {
    const row = await ProjectRow.findByPk(id);
    if (!row) throw notFound('project');
    return row;
  }

  create(body: ProjectBody): Promise<Project> {
    return this.queue.run(async () =>
      this.#view(await ProjectRow.create({ id: randomUUID(), name: body.name, notes: body.notes ?? '' })),
    );
  }

  change(id: string, body: Partial<ProjectBody>, match: string | undefined): Promise<Project> {
    return this.queue.run(async () => {
      const row = await this.row(id);
      requireMatch(match, row.version, 'project');
      await update(row, body, { what: 'project' });
      return this.#view(row);
    });
  }

  remove(id: string, match: string | undefined): Promise<void> {
    return this.queue.run(async () => {
      const row = await this.row(id);
      requireMatch(match, row.version, 'project');
      await destroy(row, { what: 'project' });
    });
  }

  async #view(row: ProjectRow): Promise<Project> {
    const materials = await MaterialRow.count({ where: { projectId: row.id, deletedAt: null } });
    return {
      id: row.id,
      name: row.name,
      notes: row.notes,
      version: row.version,
      materials,
      createdAt: row.createdAt.toISOString(),
      updatedAt: row.updatedAt.toISOString(),
    };
  }
}
