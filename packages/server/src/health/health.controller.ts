import type { Health } from '@estela/contract';
import { Controller, Get, Inject, Res } from '@nestjs/common';
import type { Response } from 'express';
import { BakesService } from '../bakes/bakes.service.ts';
import { WorkersService } from '../bakes/workers/workers.service.ts';
import { Database } from '../storage/database.ts';

@Controller('api/health')
export class HealthController {
  constructor(
    @Inject(Database) readonly database: Database,
    @Inject(BakesService) readonly bakes: BakesService,
    @Inject(WorkersService) readonly workers: WorkersService,
  ) {}

  /** Whether the server can work: 503 where its database, or the queue of bakes, does not answer. */
  @Get()
  async get(@Res({ passthrough: true }) response: Response): Promise<Health> {
    const database = await this.database.sequelize.query('SELECT 1 FROM projects LIMIT 1').then(
      () => 'up' as const,
      () => 'down' as const,
    );
    const { engine, underWay } = this.bakes;
    const isOk = database === 'up' && engine.isUp;
    response.status(isOk ? 200 : 503).setHeader('Cache-Control', 'no-store');
    return {
      status: isOk ? 'ok' : 'failing',
      database,
      queue: {
        kind: engine.queue === undefined ? 'threads' : 'redis',
        state: engine.isUp ? 'up' : 'down',
        ...this.workers.there,
        bakes: underWay,
      },
    };
  }
}
