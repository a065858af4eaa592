import {
  changedSource,
  identifier,
  newSource,
  type Source,
  type SourceBody,
  pageQuery,
  type PageQuery,
} from '@estela/contract';
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
  Req,
  Res,
  UploadedFile,
  UseInterceptors,
} from '@nestjs/common';
import type { Request, Response } from 'express';
import { sendContent } from '../http/content.ts';
import { etag } from '../http/etag.ts';
import { Paged, type Page } from '../http/paged.ts';
import { Validated } from '../http/validate.ts';
import { OneFile } from '../uploads/one-file.ts';
import type { Upload } from '../uploads/uploads.ts';
import { SourcesService } from './sources.service.ts';

@Controller('api')
export class SourcesController {
  constructor(@Inject(SourcesService) readonly sources: SourcesService) {}

  @Get('projects/:projectId/sources')
  @UseInterceptors(Paged)
  list(
    @Param('projectId', new Validated(identifier)) projectId: string,
    @Query(new Validated(pageQuery)) query: PageQuery,
  ): Promise<Page<Source>> {
    return this.sources.page(projectId, query);
  }

  @Post('projects/:projectId/sources')
  @UseInterceptors(OneFile)
  async create(
    @Param('projectId', new Validated(identifier)) projectId: string,
    @Body(new Validated(newSource)) body: SourceBody & { name: string },
    @UploadedFile() file: Upload | undefined,
    @Res({ passthrough: true }) response: Response,
  ): Promise<Source> {
    const source = await this.sources.create(projectId, body, file);
    response.setHeader('ETag', etag(source.version)).setHeader('Location', `/api/sources/${source.id}`);
    return source;
  }

  @Get('sources/:id')
  async get(
    @Param('id', new Validated(identifier)) id: string,
    @Res({ passthrough: true }) response: Response,
  ): Promise<Source> {
    const source = await this.sources.get(id);
    response.setHeader('ETag', etag(source.version));
    return source;
  }

  @Put('sources/:id')
  @UseInterceptors(OneFile)
  async change(
    @Param('id', new Validated(identifier)) id: string,
    @Body(new Validated(changedSource)) body: SourceBody,
    @UploadedFile() file: Upload | undefined,
    @Headers('if-match') match: string | undefined,
    @Res({ passthrough: true }) response: Response,
  ): Promise<Source> {
    const source = await this.sources.change(id, body, file, match);
    response.setHeader('ETag', etag(source.version));
    return source;
  }

  @Delete('sources/:id')
  @HttpCode(204)
  remove(
    @Param('id', new Validated(identifier)) id: string,
    @Headers('if-match') match: string | undefined,
  ): Promise<void> {
    return this.sources.remove(id, match);
  }

  @Get('sources/:id/content')
  async content(
    @Param('id', new Validated(identifier)) id: string,
    @Req() request: Request,
    @Res() response: Response,
  ): Promise<void> {
    await sendContent(request, response, await this.sources.content(id));
  }
}
