import type { Bake, PageQuery } from '@estela/contract';
import { randomUUID } from 'node:crypto';
import { zipped } from '@estela/codecs/files';
import {
  bakeFiles,
  bakePieces,
  frameCount,
  framesOfChunk,
  writtenManifest,
  type BakeChunk,
  type BakePlan,
  type BakeRecipe,
  type Band,
} from '@estela/core';
import { Inject, Injectable, type OnModuleDestroy } from '@nestjs/common';
import { Readable } from 'node:stream';
import { EventsService } from '../events/events.service.ts';
import type { Content } from '../http/content.ts';
import type { Page } from '../http/paged.ts';
import { bakeNotDone, isOfDisk, noRoom, notBaked, notFound } from '../http/problem.ts';
import { MaterialsService } from '../materials/materials.service.ts';
import { ProjectsService } from '../projects/projects.service.ts';
import { SourcesService } from '../sources/sources.service.ts';
import { keepLarge, readBytes, readParts } from '../storage/blobs.ts';
import { Database } from '../storage/database.ts';
import type { BakeRow } from '../storage/models.ts';
import { pageOf } from '../storage/pages.ts';
import { WriteQueue } from '../storage/write-queue.ts';
import { Uploads } from '../uploads/uploads.ts';
import { BakePlanner } from './bake-planner.ts';
import { viewOf, type Began } from './bake-view.ts';
import { isOver, KeptBands } from './kept-bands.ts';
import type { BakeEngine, BakeSink } from './queue/bake-queue.ts';
import { RedisEngine, type RedisQueue } from './queue/redis-engine.ts';
import { ThreadEngine } from './queue/thread-engine.ts';
import { BakeTurns } from './queue/turns.ts';
import { AwaitedChunks } from './workers/awaited-chunks.ts';
import { WorkersService } from './workers/workers.service.ts';
import { why } from '../http/wording.ts';

/** What names who computes bakes. */
export const BAKED_BY = Symbol('who computes bakes');
/** So many threads of this server, or the workers of a queue in Redis. */
export type BakedBy = { readonly jobs: number } | RedisQueue;

/** Most bytes that the bakes of a project may come to. */
const PROJECT_BYTES = 8 * 1024 ** 3;
/** Most bakes of a project that wait or run. */
const MOST_WAITING = 100;
/** Milliseconds between two tellings of how far a bake is. */
const PAUSE = 400;

const written = (plan: BakePlan): { name: string; mime: string } =>
  plan.files.length === 1
    ? { name: plan.files[0]!.name, mime: 'image/png' }
    : { name: `${plan.name}.zip`, mime: 'application/zip' };
const utf8 = (text: string): Uint8Array<ArrayBuffer> => new Uint8Array(Buffer.from(text, 'utf8'));

/** A bake that is worked on, as this server knows it. */
interface Known {
  readonly plan: BakePlan;
  readonly projectId: string;
  readonly title: string;
  began: Began | undefined;
  told: NodeJS.Timeout | undefined;
}

/** Bakes of materials: rows, and the work on them. Every change is stored before it is told. */
@Injectable()
export class BakesService implements OnModuleDestroy {
  readonly #planner = new BakePlanner();
  readonly #known = new Map<string, Known>();
  readonly engine: BakeEngine;
  readonly #queue: BakeTurns;
  readonly #bands: KeptBands;
  readonly awaited: AwaitedChunks;
  /** Whether it is still finding out which chunks are to be computed. */
  isResuming = false;

  constructor(
    @Inject(Database) readonly database: Database,
    @Inject(WriteQueue) readonly writes: WriteQueue,
    @Inject(EventsService) readonly events: EventsService,
    @Inject(Uploads) readonly uploads: Uploads,
    @Inject(ProjectsService) readonly projects: ProjectsService,
    @Inject(MaterialsService) readonly materials: MaterialsService,
    @Inject(SourcesService) readonly sources: SourcesService,
    @Inject(WorkersService) readonly workers: WorkersService,
    @Inject(BAKED_BY) by: BakedBy,
  ) {
    const sink: BakeSink = {
      file: (hash) => readBytes(database, hash),
      began: (id) => this.#began(id),
      kept: (id, chunk, bands) => this.#keep(id, chunk, bands),
      finished: (id, stop) => this.#finish(id, stop),
      failed: (id, error) => this.#fail(id, error),
    };
    this.awaited = new AwaitedChunks(sink, workers);
    this.engine = 'jobs' in by ? new ThreadEngine(sink, workers, by.jobs) : new RedisEngine(this.awaited, workers, by);
    this.#queue = new BakeTurns(sink, this.engine);
    this.#bands = new KeptBands(database, writes);
    let { waits } = this.engine;
    this.engine.changed = () => {
      this.#queue.next();
      if (this.engine.waits === waits) return;
      ({ waits } = this.engine);
      for (const id of this.#known.keys()) void this.#change(id, {});
    };
  }

  /** Goes on with what a server that ended had begun, once what it left in `uploads` is gone. */
  async resume(): Promise<void> {
    this.isResuming = true;
    try {
      const rows = await this.database.bakes
        .unscoped()
        .findAll({ where: { state: ['queued', 'running'] }, order: ['createdAt'] });
      for (const row of rows) await this.#enqueue(row).catch((error: unknown) => this.#fail(row.id, error));
    } finally {
      this.isResuming = false;
    }
  }

  async onModuleDestroy(): Promise<void> {
    for (const { told } of this.#known.values()) clearTimeout(told);
    await this.#queue.end();
    await this.awaited.end();
    await this.#planner.end();
  }

  /** What a worker must make of the small bake by which it is tried. */
  trial(): Promise<string> {
    return this.#planner.trial();
  }

  /** What is known of a bake that is under way. */
  about(id: string): { readonly projectId: string; readonly title: string } | undefined {
    return this.#known.get(id);
  }

  /** Bakes that wait or run. */
  get underWay(): number {
    return this.#known.size;
  }

  async page(projectId: string, query: PageQuery): Promise<Page<Bake>> {
    await this.projects.row(projectId);
    return pageOf(this.database.bakes, { projectId }, ['createdAt', 'id'], query, (row) => this.#view(row));
  }

  async get(id: string): Promise<Bake> {
    return this.#view(await this.#row(id));
  }

  /** Asks for a bake of a material as it is saved. Throws a Problem where it cannot be baked with these settings. */
  async create(materialId: string, recipe: BakeRecipe): Promise<Bake> {
    const { projectId, text, title, revision } = await this.materials.get(materialId);
    const subject = { text, recipe };
    const planned = await this.#planner.plan(subject);
    if ('refused' in planned) throw notBaked(title, planned.refused);
    const { plan, reads } = planned;
    const sources = new Map((await this.sources.list(projectId)).map((s) => [s.name, s.hash]));
    const missing = reads.filter((name) => !sources.has(name));
    if (missing.length > 0) throw notBaked(title, why.imagesMissing(missing));
    const hashes = new Map(reads.map((name) => [name, sources.get(name)!]));
    const signature = await this.#planner.signature(subject, hashes);
    const row = await this.writes.run(() =>
      this.database.transaction(async (transaction) => {
        await this.#allow(projectId, title);
        const made = await this.database.bakes.create(
          {
            id: randomUUID(),
            ...{ projectId, materialId, title, revision, text, signature },
            recipe: JSON.stringify(recipe),
            state: 'queued',
            total: frameCount(plan),
            ...written(plan),
          },
          { transaction },
        );
        for (const [name, hash] of hashes)
          await this.database.bakeImages.create({ bakeId: made.id, name, hash }, { transaction });
        return made;
      }),
    );
    this.#tell(row, 'made');
    void this.#enqueue(row, plan).catch((error: unknown) => this.#fail(row.id, error));
    return this.#view(row);
  }

  /** Goes on with a bake that failed or was cancelled; any other goes on by itself. */
  async retry(id: string): Promise<Bake> {
    const [changed] = await this.writes.run(() =>
      this.database.bakes.update(
        { state: 'queued', problem: null, finishedAt: null },
        { where: { id, state: ['failed', 'cancelled'] } },
      ),
    );
    const row = await this.database.bakes.unscoped().findByPk(id);
    if (!row) throw notFound('bake');
    if (changed > 0) {
      await this.#change(id, {});
      void this.#enqueue(row).catch((error: unknown) => this.#fail(id, error));
    }
    return this.get(id);
  }

  /** Cancels a bake that is not over, or deletes one. */
  async remove(id: string): Promise<void> {
    const row = await this.#row(id);
    if (isOver(row)) {
      await this.writes.run(() =>
        this.database.transaction(async (transaction) => {
          await row.destroy({ transaction });
          // Large, and soon made again: no week is waited, where nothing else uses its bytes.
          if (row.hash !== null)
            await this.database.sequelize.query('DELETE FROM blobs WHERE hash = ? AND unusedSince IS NOT NULL', {
              replacements: [row.hash],
              transaction,
            });
        }),
      );
      this.#forget(id);
      this.#tell(row, 'deleted');
      return;
    }
    await this.#queue.cancel(id);
    await this.#end(id, { state: 'cancelled' });
  }

  async content(id: string): Promise<{ readonly name: string; readonly content: Content }> {
    const { mime, hash, size, name } = await this.#row(id);
    if (hash === null || size === null) throw bakeNotDone();
    return { name, content: { mime, hash, size, read: (first, last) => readParts(this.database, hash, first, last) } };
  }

  async picture(id: string): Promise<Buffer> {
    const row = await this.database.bakes.unscoped().findByPk(id, { attributes: ['picture'] });
    if (!row?.picture) throw notFound('picture');
    return row.picture;
  }

  async manifest(id: string): Promise<string> {
    const row = await this.database.bakes.unscoped().findByPk(id, { attributes: ['text', 'recipe', 'title'] });
    if (!row) throw notFound('bake');
    const planned = await this.#planner.plan({ text: row.text, recipe: JSON.parse(row.recipe) as BakeRecipe });
    if ('refused' in planned) throw notBaked(row.title, planned.refused);
    return writtenManifest(planned.plan);
  }

  /** Throws where a project has as much as it may. */
  async #allow(projectId: string, title: string): Promise<void> {
    const { bakes } = this.database;
    if ((await bakes.count({ where: { projectId, state: ['queued', 'running'] } })) >= MOST_WAITING)
      throw notBaked(title, why.tooManyWaiting(MOST_WAITING));
    // Null where there are none.
    const size = ((await bakes.sum('size', { where: { projectId } })) as number | null) ?? 0;
    if (size >= PROJECT_BYTES) throw notBaked(title, why.projectFull);
  }

  /** Hands a bake to the queue, with the chunks of it that are not kept. */
  async #enqueue(row: BakeRow, given?: BakePlan): Promise<void> {
    const { id, text, projectId, title } = row;
    const recipe = JSON.parse(row.recipe) as BakeRecipe;
    const planned = given ? { plan: given } : await this.#planner.plan({ text, recipe });
    if ('refused' in planned) throw new Error(planned.refused);
    const { plan } = planned;
    const known: Known = { plan, projectId, title, began: undefined, told: undefined };
    this.#known.set(id, known);
    const images = await this.database.bakeImages.findAll({ where: { bakeId: id } });
    if (!row.picture) {
      const png = await this.#planner.picture({ id, text, recipe }, images, (hash) => readBytes(this.database, hash));
      if (png) await this.#change(id, { picture: Buffer.from(png) });
    }
    const kept = await this.#bands.numbers(id, plan);
    // Cancelled meanwhile, or even gone on with.
    if (this.#known.get(id) !== known) return;
    this.#queue.enqueue({
      ...{ id, text, recipe, plan },
      images: images.map(({ name, hash }) => ({ name, hash })),
      chunks: plan.chunks.filter(({ first }) => !kept.has(first)),
    });
  }

  async #began(id: string): Promise<void> {
    const row = await this.database.bakes.findByPk(id);
    if (!row) {
      this.#drop(id);
      return;
    }
    const known = this.#known.get(id);
    if (known) known.began = { at: Date.now(), done: row.done };
    await this.#change(id, { state: 'running', startedAt: new Date(), problem: null });
  }

  /** Stops work on a bake whose project was deleted: nobody waits for it. Not waited for, as it is part of that work. */
  #drop(id: string): void {
    this.#forget(id);
    void this.#queue.cancel(id);
  }

  async #keep(id: string, chunk: BakeChunk, made: readonly Band[]): Promise<void> {
    const known = this.#known.get(id);
    if (!known) return;
    const frames = framesOfChunk(known.plan, chunk);
    if (!(await this.#bands.keep(id, chunk.first, made, frames))) {
      this.#drop(id);
      return;
    }
    known.told ??= setTimeout(() => {
      known.told = undefined;
      void this.#row(id).then(
        (row) => {
          this.#tell(row, 'changed');
        },
        () => undefined,
      );
    }, PAUSE);
  }

  /** Makes the file of a bake from its bands, and keeps it in their place. */
  async #finish(id: string, stop: AbortSignal): Promise<void> {
    const known = this.#known.get(id);
    if (!known) return;
    const { plan } = known;
    const bands = this.#bands.all(id, plan.bands.length);
    const bytes = plan.files.length === 1 ? bytesOf(bakeFiles(plan, bands)) : zipped(bakePieces(plan, bands, utf8));
    const file = await this.uploads.take(Readable.from(bytes, { signal: stop }));
    try {
      await keepLarge(this.database, this.writes, file, stop);
      const { hash, size } = file;
      await this.#end(id, { state: 'done', hash, size, done: frameCount(plan) });
    } finally {
      await this.uploads.drop(file);
    }
  }

  /** Says why a bake failed; where not even that can be stored it is gone on with at the next start. */
  async #fail(id: string, error: unknown): Promise<void> {
    const problem = isOfDisk(error) ? noRoom().message : saidBy(error);
    await this.#end(id, { state: 'failed', problem }).catch(() => undefined);
  }

  /** Ends a bake that was not over. Its bands stay until it is done, so that it can be gone on with. */
  async #end(
    id: string,
    values: Partial<Pick<BakeRow, 'state' | 'hash' | 'size' | 'done' | 'problem'>>,
  ): Promise<void> {
    await this.writes.run(() =>
      this.database.transaction(async (transaction) => {
        const [changed] = await this.database.bakes.update(
          { ...values, finishedAt: new Date() },
          { where: { id, state: ['queued', 'running'] }, transaction },
        );
        if (changed > 0 && values.state === 'done')
          await this.database.bands.destroy({ where: { bakeId: id }, transaction });
      }),
    );
    this.#forget(id);
    await this.#change(id, {});
  }

  #forget(id: string): void {
    clearTimeout(this.#known.get(id)?.told);
    this.#known.delete(id);
  }

  /** Changes a row, and tells of it; nothing where it is gone. */
  async #change(id: string, values: object): Promise<void> {
    await this.writes.run(async () => {
      const row = await this.database.bakes.findByPk(id);
      if (!row) return;
      await row.update({ ...values, version: row.version + 1 });
      this.#tell(row, 'changed');
    });
  }

  #tell({ projectId, id, version }: BakeRow, change: 'made' | 'changed' | 'deleted'): void {
    this.events.tell({ kind: 'bake', projectId, id, version, change });
  }

  async #row(id: string): Promise<BakeRow> {
    const row = await this.database.bakes.findByPk(id);
    if (!row) throw notFound('bake');
    return row;
  }

  #view(row: BakeRow): Bake {
    return viewOf(row, this.#known.get(row.id)?.began, this.engine.waits);
  }
}

async function* bytesOf(pieces: ReturnType<typeof bakeFiles>): AsyncGenerator<Uint8Array> {
  for await (const { bytes } of pieces) yield bytes;
}

/** The sentence of what was thrown, in whatever thread. */
const saidBy = (error: unknown): string =>
  typeof error === 'object' && error !== null && 'message' in error ? String(error.message) : String(error);
