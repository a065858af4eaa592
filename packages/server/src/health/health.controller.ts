import type { Health } from '@estela/contract';
import { Controller, Get, Inject, Res } from '@nestjs/common';
import type { Response } from 'express';
import { Database } from '../storage/database.ts';

@Controller('api/health')
export class HealthController {
  constructor(@Inject(Database) readonly database: Database) {}

  /** Whether the server can work: 503 where its database does not answer. */
  @Get()
  async get(@Res({ passthrough: true }) response: Response): Promise<Health> {
    const database = await this.database.sequelize.query('SELECT 1 FROM projects LIMIT 1').then(
      () => 'up' as const,
      () => 'down' as const,
    );
    response.status(database === 'up' ? 200 : 503).setHeader('Cache-Control', 'no-store');
    return { status: database === 'up' ? 'ok' : 'failing', database };
  }
}
