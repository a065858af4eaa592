import { Controller, Get, Headers, Inject, Param, Post, Query, Req, Res } from '@nestjs/common';
import type { Request, Response } from 'express';
import Joi from 'joi';
import { notAnImage } from '../http/problem.ts';
import { Validated } from '../http/validate.ts';
import { identifier } from '../projects/projects.schema.ts';
import { SourcesService, type SourceView } from './sources.service.ts';

const sourceName = Joi.object<{ name: string }>({
  name: Joi.string()
    .trim()
    .min(1)
    .max(200)
    .pattern(/^[^"\n\r]+$/)
    .required()
    .label('name'),
});

@Controller('api')
export class SourcesController {
  constructor(@Inject(SourcesService) readonly sources: SourcesService) {}

  @Get('projects/:projectId/sources')
  list(@Param('projectId', new Validated(identifier)) projectId: string): Promise<SourceView[]> {
    return this.sources.list(projectId);
  }

  /** The body is the file itself, as image/png; its name is in the query. */
  @Post('projects/:projectId/sources')
  create(
    @Param('projectId', new Validated(identifier)) projectId: string,
    @Query(new Validated(sourceName)) query: { name: string },
    @Req() request: Request,
  ): Promise<SourceView> {
    const body: unknown = request.body;
    if (!Buffer.isBuffer(body)) throw notAnImage(query.name);
    return this.sources.create(projectId, query.name, body);
  }

  @Get('sources/:id/content')
  async content(
    @Param('id', new Validated(identifier)) id: string,
    @Headers('if-none-match') known: string | undefined,
    @Res() response: Response,
  ): Promise<void> {
    const { mime, hash, bytes } = await this.sources.content(id);
    response.setHeader('ETag', `"${hash}"`).setHeader('Cache-Control', 'no-cache');
    if (known === `"${hash}"`) response.status(304).end();
    else response.type(mime).send(bytes);
  }
}
