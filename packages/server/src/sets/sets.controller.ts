import { identifier, setBody, type SetBody, type StoredSet, pageQuery, type PageQuery } from '@estela/contract';
import {
  Body,
  Controller,
  Delete,
  Get,
  Headers,
  HttpCode,
  Inject,
  Param,
  Post,
  Put,
  Query,
  Res,
  UseInterceptors,
} from '@nestjs/common';
import type { Response } from 'express';
import { etag } from '../http/etag.ts';
import { Paged, type Page } from '../http/paged.ts';
import { Validated } from '../http/validate.ts';
import { SetsService } from './sets.service.ts';

@Controller('api')
export class SetsController {
  constructor(@Inject(SetsService) readonly sets: SetsService) {}

  @Get('projects/:projectId/sets')
  @UseInterceptors(Paged)
  list(
    @Param('projectId', new Validated(identifier)) projectId: string,
    @Query(new Validated(pageQuery)) query: PageQuery,
  ): Promise<Page<StoredSet>> {
    return this.sets.page(projectId, query);
  }

  @Post('projects/:projectId/sets')
  async create(
    @Param('projectId', new Validated(identifier)) projectId: string,
    @Body(new Validated(setBody)) body: SetBody,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StoredSet> {
    const set = await this.sets.create(projectId, body);
    response.setHeader('ETag', etag(set.version)).setHeader('Location', `/api/sets/${set.id}`);
    return set;
  }

  @Get('sets/:id')
  async get(
    @Param('id', new Validated(identifier)) id: string,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StoredSet> {
    const set = await this.sets.get(id);
    response.setHeader('ETag', etag(set.version));
    return set;
  }

  @Put('sets/:id')
  async change(
    @Param('id', new Validated(identifier)) id: string,
    @Body(new Validated(setBody)) body: SetBody,
    @Headers('if-match') match: string | undefined,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StoredSet> {
    const set = await this.sets.change(id, body, match);
    response.setHeader('ETag', etag(set.version));
    return set;
  }

  @Delete('sets/:id')
  @HttpCode(204)
  remove(
    @Param('id', new Validated(identifier)) id: string,
    @Headers('if-match') match: string | undefined,
  ): Promise<void> {
    return this.sets.remove(id, match);
  }
}
