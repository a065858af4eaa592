import {
  bandNumber,
  chunkFailure,
  contentHash,
  identifier,
  workerHello,
  type ChunkAnswer,
  type ChunkFailure,
  type ChunkPlace,
  type BakeWorker,
  type WorkerHello,
  type WorkerWelcome,
} from '@estela/contract';
import { Body, Controller, Delete, Get, HttpCode, Inject, Param, Post, Put, Req, Res } from '@nestjs/common';
import type { Request, Response } from 'express';
import { buildId } from '../../build-id.ts';
import { bytesOf, inTurn, TakesBytes } from '../../http/bytes.ts';
import { sendContent } from '../../http/content.ts';
import { notFound, stillStarting, workerRefused, wrongChunk, wrongDigest } from '../../http/problem.ts';
import { Validated } from '../../http/validate.ts';
import { readParts, storedIn } from '../../storage/blobs.ts';
import { Database } from '../../storage/database.ts';
import { BakesService } from '../bakes.service.ts';
import { TornChunk, WrongChunk } from './awaited-chunks.ts';
import { refusalOf } from './joining.ts';
import { WorkersService } from './workers.service.ts';
import { why } from '../../http/wording.ts';

const id = new Validated(identifier);
const CHUNK = 'workers/:workerId/bakes/:bakeId/chunks/:first';

/** Workers on other machines: who they are, what they begin and hand in. */
@Controller('api')
export class WorkersController {
  /** Those that have sent wrong bytes. */
  readonly #wrong = new Set<string>();

  constructor(
    @Inject(BakesService) readonly bakes: BakesService,
    @Inject(WorkersService) readonly workers: WorkersService,
    @Inject(Database) readonly database: Database,
  ) {}

  @Get('workers')
  list(): BakeWorker[] {
    return this.workers.list().map(({ seen, at, ...worker }) => ({
      ...worker,
      at: [...at].flatMap(([bakeId, chunks]) => {
        const about = this.bakes.about(bakeId);
        return about ? [{ bakeId, chunks, projectId: about.projectId, title: about.title }] : [];
      }),
      seenAt: new Date(seen).toISOString(),
    }));
  }

  @Put('workers/:workerId')
  async join(
    @Param('workerId', id) workerId: string,
    @Body(new Validated(workerHello)) hello: WorkerHello,
  ): Promise<WorkerWelcome> {
    const { name, jobs, at } = hello;
    const refused = this.#wrong.has(workerId)
      ? why.notPictures(name)
      : refusalOf(hello, { build: buildId(), trial: await this.bakes.trial() });
    if (refused !== undefined) {
      this.workers.drop(workerId);
      throw workerRefused(refused);
    }
    const { queue } = this.bakes.engine;
    this.workers.put(workerId, { name, jobs });
    // It may have sent one this moment.
    this.workers.holds(
      workerId,
      at.filter((place) => this.bakes.awaited.has(place)),
    );
    return { queue: queue ?? null };
  }

  @Delete('workers/:workerId')
  @HttpCode(204)
  leave(@Param('workerId', id) workerId: string): void {
    if (!this.workers.drop(workerId)) throw notFound('worker');
  }

  @Post(CHUNK)
  @HttpCode(200)
  async begin(
    @Param('workerId', id) workerId: string,
    @Param('bakeId', id) bakeId: string,
    @Param('first', new Validated(bandNumber)) first: number,
  ): Promise<ChunkAnswer> {
    this.#expect(workerId);
    return { wanted: await this.bakes.awaited.begin(workerId, { bakeId, first }) };
  }

  @Put(CHUNK)
  @TakesBytes()
  async handIn(
    @Param('workerId', id) workerId: string,
    @Param('bakeId', id) bakeId: string,
    @Param('first', new Validated(bandNumber)) first: number,
    @Req() request: Request,
  ): Promise<ChunkAnswer> {
    try {
      this.#expect(workerId);
      return { wanted: await inTurn(() => this.#take(request, workerId, { bakeId, first })) };
    } finally {
      // What was not read, as nobody waits for it, goes by: who sends it can only then read the answer.
      request.resume();
    }
  }

  @Post(`${CHUNK}/failure`)
  @HttpCode(204)
  fail(
    @Param('workerId', id) workerId: string,
    @Param('bakeId', id) bakeId: string,
    @Param('first', new Validated(bandNumber)) first: number,
    @Body(new Validated(chunkFailure)) { problem }: ChunkFailure,
  ): void {
    this.#expect(workerId);
    this.workers.ended(workerId, { bakeId, first });
    this.bakes.awaited.fail({ bakeId, first }, new Error(problem));
  }

  @Get('blobs/:hash')
  async blob(
    @Param('hash', new Validated(contentHash.required())) hash: string,
    @Req() request: Request,
    @Res() response: Response,
  ): Promise<void> {
    const stored = await storedIn(this.database, hash);
    if (!stored) throw notFound('file');
    const read = (first: number, last: number): AsyncIterable<Buffer> => readParts(this.database, hash, first, last);
    await sendContent(request, response, { hash, size: stored.size, mime: 'application/octet-stream', read });
  }

  /** Reads and keeps a chunk; false where nobody waits for it. */
  async #take(request: Request, workerId: string, place: ChunkPlace): Promise<boolean> {
    const { awaited } = this.bakes;
    const most = awaited.mostBytes(place);
    const packed = most === 0 ? new Uint8Array() : await bytesOf(request, most);
    try {
      return await awaited.handIn(workerId, place, packed, request.get('content-digest') ?? '');
    } catch (error) {
      if (error instanceof TornChunk) throw wrongDigest();
      if (!(error instanceof WrongChunk)) throw error;
      this.#wrong.add(workerId);
      this.workers.drop(workerId);
      throw wrongChunk(error.message);
    }
  }

  /** Throws where a worker must say first who it is, or come again when the server knows what is to be done. */
  #expect(workerId: string): void {
    if (this.bakes.isResuming) throw stillStarting();
    if (!this.workers.has(workerId)) throw notFound('worker');
  }
}
