import type { PageQuery, Project, ProjectBody } from '@estela/contract';
import { randomUUID } from 'node:crypto';
import { Inject, Injectable } from '@nestjs/common';
import { EventsService } from '../events/events.service.ts';
import { requireMatch } from '../http/etag.ts';
import type { Page } from '../http/paged.ts';
import { notFound } from '../http/problem.ts';
import { Database } from '../storage/database.ts';
import { destroy, update } from '../storage/guarded.ts';
import type { ProjectRow } from '../storage/models.ts';
import { pageOf } from '../storage/pages.ts';
import { WriteQueue } from '../storage/write-queue.ts';

@Injectable()
export class ProjectsService {
  constructor(
    @Inject(Database) readonly database: Database,
    @Inject(WriteQueue) readonly queue: WriteQueue,
    @Inject(EventsService) readonly events: EventsService,
  ) {}

  async page(query: PageQuery): Promise<Page<Project>> {
    const { items, next } = await pageOf(this.database.projects, {}, ['createdAt', 'id'], query, (row) => row);
    return { items: await Promise.all(items.map((row) => this.#view(row))), next };
  }

  async get(id: string): Promise<Project> {
    return this.#view(await this.row(id));
  }

  async row(id: string): Promise<ProjectRow> {
    const row = await this.database.projects.findByPk(id);
    if (!row) throw notFound('project');
    return row;
  }

  create(body: ProjectBody): Promise<Project> {
    return this.queue.run(async () => {
      const row = await this.database.projects.create({ id: randomUUID(), name: body.name, notes: body.notes ?? '' });
      return this.#told(row, 'made');
    });
  }

  change(id: string, body: Partial<ProjectBody>, match: string | undefined): Promise<Project> {
    return this.queue.run(async () => {
      const row = await this.row(id);
      requireMatch(match, row.version, 'project');
      await update(row, body, { what: 'project' });
      return this.#told(row, 'changed');
    });
  }

  remove(id: string, match: string | undefined): Promise<void> {
    return this.queue.run(async () => {
      const row = await this.row(id);
      requireMatch(match, row.version, 'project');
      await destroy(row, { what: 'project' });
      this.events.tell({ kind: 'project', id, projectId: id, version: row.version, change: 'deleted' });
    });
  }

  #told(row: ProjectRow, change: 'made' | 'changed'): Promise<Project> {
    this.events.tell({ kind: 'project', id: row.id, projectId: row.id, version: row.version, change });
    return this.#view(row);
  }

  async #view(row: ProjectRow): Promise<Project> {
    const materials = await this.database.materials.count({ where: { projectId: row.id, deletedAt: null } });
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
