import type { SetBody, StoredSet } from '@estela/contract';
import { randomUUID } from 'node:crypto';
import { Inject, Injectable } from '@nestjs/common';
import { UniqueConstraintError } from 'sequelize';
import { requireMatch } from '../http/etag.ts';
import { nameTaken, notFound } from '../http/problem.ts';
import { ProjectsService } from '../projects/projects.service.ts';
import { destroy, update } from '../storage/guarded.ts';
import { SetRow } from '../storage/models.ts';
import { WriteQueue } from '../storage/write-queue.ts';

@Injectable()
export class SetsService {
  constructor(
    @Inject(WriteQueue) readonly queue: WriteQueue,
    @Inject(ProjectsService) readonly projects: ProjectsService,
  ) {}

  async list(projectId: string): Promise<StoredSet[]> {
    await this.projects.row(projectId);
    return (await SetRow.findAll({ where: { projectId }, order: [['name', 'ASC']] })).map(view);
  }

  async get(id: string): Promise<StoredSet> {
    return view(await this.#row(id));
  }

  create(projectId: string, { name, ...body }: SetBody): Promise<StoredSet> {
    return this.#write(name, async () => {
      await this.projects.row(projectId);
      return SetRow.create({ id: randomUUID(), projectId, name, body: JSON.stringify(body) });
    });
  }

  change(id: string, { name, ...body }: SetBody, match: string | undefined): Promise<StoredSet> {
    return this.#write(name, async () => {
      const row = await this.#row(id);
      const next = { name, body: JSON.stringify(body) };
      const isStored = row.name === next.name && row.body === next.body;
      requireMatch(match, row.version, 'set', isStored);
      return isStored ? row : update(row, next, { what: 'set' });
    });
  }

  remove(id: string, match: string | undefined): Promise<void> {
    return this.queue.run(async () => {
      const row = await this.#row(id);
      requireMatch(match, row.version, 'set');
      await destroy(row, { what: 'set' });
    });
  }

  async #write(name: string, write: () => Promise<SetRow>): Promise<StoredSet> {
    try {
      return view(await this.queue.run(write));
    } catch (error) {
      if (error instanceof UniqueConstraintError) throw nameTaken(name, 'set');
      throw error;
    }
  }

  async #row(id: string): Promise<SetRow> {
    const row = await SetRow.findByPk(id);
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
