import type { Bake } from '@estela/contract';
import type { BakeRecipe } from '@estela/core';
import type { BakeRow } from '../storage/models.ts';
import { isOver } from './kept-bands.ts';

/** When work on a bake began here, in milliseconds since 1970, and how many frames were done by then. */
export interface Began {
  readonly at: number;
  readonly done: number;
}

const moment = (date: Date | null | undefined): string | null => date?.toISOString() ?? null;

/** A bake as the API tells it; `waits` is what bakes that are not over wait for. */
export function viewOf(row: BakeRow, began: Began | undefined, waits: string | undefined): Bake {
  const { id, projectId, materialId, title, revision, signature, state, done, total, problem, version } = row;
  const start = state === 'running' ? began : undefined;
  const seconds = start ? (Date.now() - start.at) / 1000 : 0;
  const rate = start && done > start.done && seconds > 0 ? (done - start.done) / seconds : null;
  return {
    ...{ id, projectId, materialId, title, revision, signature, state, total, version, rate },
    recipe: JSON.parse(row.recipe) as BakeRecipe,
    // Sums of parts of frames are a hair beside whole ones.
    done: Math.min(total, Math.round(done * 1000) / 1000),
    left: rate === null ? null : Math.max(0, (total - done) / rate),
    waits: (isOver(row) ? undefined : waits) ?? null,
    problem: problem ?? null,
    file: row.hash && row.size ? { name: row.name, mime: row.mime, size: row.size, hash: row.hash } : null,
    createdAt: row.createdAt.toISOString(),
    startedAt: moment(row.startedAt),
    finishedAt: moment(row.finishedAt),
    updatedAt: row.updatedAt.toISOString(),
  };
}
