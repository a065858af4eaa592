import type { ProjectEvent } from '@estela/contract';
import { Inject, Injectable } from '@nestjs/common';
import { UniqueConstraintError } from 'sequelize';
import { requireMatch } from '../http/etag.ts';
import { nameTaken } from '../http/problem.ts';
import { destroy } from '../storage/guarded.ts';
import type { MeshRow, SetRow, SourceRow } from '../storage/models.ts';
import { WriteQueue } from '../storage/write-queue.ts';
import { EventsService } from './events.service.ts';

/** A thing of a project that has a name of its own there. */
type NamedRow = SourceRow | MeshRow | SetRow;
type NamedKind = Exclude<ProjectEvent['kind'], 'project' | 'material' | 'bake'>;

/** Writes named things in their turn, and tells of what was done. */
@Injectable()
export class ToldWrites {
  constructor(
    @Inject(WriteQueue) readonly queue: WriteQueue,
    @Inject(EventsService) readonly events: EventsService,
  ) {}

  /** Runs a write. Throws a Problem where the name is taken. */
  async write<R extends NamedRow>(
    kind: NamedKind,
    name: string,
    change: 'made' | 'changed',
    write: () => Promise<R>,
  ): Promise<R> {
    try {
      const row = await this.queue.run(write);
      this.#tell(kind, row, change);
      return row;
    } catch (error) {
      if (error instanceof UniqueConstraintError) throw nameTaken(name, kind);
      throw error;
    }
  }

  /** Deletes what `find` finds, where it still is what `match` names. */
  remove(kind: NamedKind, find: () => Promise<NamedRow>, match: string | undefined): Promise<void> {
    return this.queue.run(async () => {
      const row = await find();
      requireMatch(match, row.version, kind);
      await destroy(row, { what: kind });
      this.#tell(kind, row, 'deleted');
    });
  }

  #tell(kind: NamedKind, { projectId, id, version }: NamedRow, change: ProjectEvent['change']): void {
    this.events.tell({ projectId, kind, id, version, change });
  }
}
