import type { PageQuery, SetBody, StoredSet } from '@estela/contract';
import { randomUUID } from 'node:crypto';
import { Inject, Injectable } from '@nestjs/common';
import { ToldWrites } from '../events/told-writes.ts';
import { requireMatch } from '../http/etag.ts';
import type { Page } from '../http/paged.ts';
import { notFound } from '../http/problem.ts';
import { ProjectsService } from '../projects/projects.service.ts';
import { Database } from '../storage/database.ts';
import { update } from '../storage/guarded.ts';
import type { SetRow } from '../storage/models.ts';
import { pageOf } from '../storage/pages.ts';

@Injectable()
export class SetsService {
  constructor(
    @Inject(Database) readonly database: Database,
    @Inject(ProjectsService) readonly projects: ProjectsService,
    @Inject(ToldWrites) readonly writes: ToldWrites,
  ) {}

  async list(projectId: string): Promise<readonly StoredSet[]> {
    return (await this.page(projectId, {})).items;
  }

  async page(projectId: string, query: PageQuery): Promise<Page<StoredSet>> {
    await this.projects.row(projectId);
    return pageOf(this.database.sets, { projectId }, ['name', 'id'], query, view);
  }

  async get(id: string): Promise<StoredSet> {
    return view(await this.#row(id));
  }

  async create(projectId: string, { name, ...body }: SetBody): Promise<StoredSet> {
    const made = await this.writes.write('set', name, 'made', async () => {
      await this.projects.row(projectId);
      return this.database.sets.create({ id: randomUUID(), projectId, name, body: JSON.stringify(body) });
    });
    return view(made);
  }

  async change(id: string, { name, ...body }: SetBody, match: string | undefined): Promise<StoredSet> {
    const changed = await this.writes.write('set', name, 'changed', async () => {
      const row = await this.#row(id);
      const next = { name, body: JSON.stringify(body) };
      const isStored = row.name === next.name && row.body === next.body;
      requireMatch(match, row.version, 'set', isStored);
      return isStored ? row : update(row, next, { what: 'set' });
    });
    return view(changed);
  }

  remove(id: string, match: string | undefined): Promise<void> {
    return this.writes.remove('set', () => this.#row(id), match);
  }

  async #row(id: string): Promise<SetRow> {
    const row = await this.database.sets.findByPk(id);
    if (!row) throw notFound('set');
    return row;
  }
}

function view({ id, projectId, name, body, version, updatedAt }: SetRow): StoredSet {
  return {
    ...(JSON.parse(body) as Omit<SetBody, 'name'>),
    id,
    projectId,
    name,
    version,
    updatedAt: updatedAt.toISOString(),
  };
}
