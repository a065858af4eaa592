import { changedSource, identifier, newSource, type Source, type SourceBody } from '@estela/contract';
import { BYTE_LIMIT } from '@estela/codecs';
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
  Res,
  UploadedFile,
  UseInterceptors,
} from '@nestjs/common';
import { FileInterceptor } from '@nestjs/platform-express';
import type { Response } from 'express';
import { etag } from '../http/etag.ts';
import { Validated } from '../http/validate.ts';
import { SourcesService } from './sources.service.ts';

/** One file, `file`, in a form; its other fields are those of SourceBody, the recipe as JSON. */
const OneFile = FileInterceptor('file', {
  limits: { fileSize: BYTE_LIMIT, files: 1, fields: 8, fieldSize: 2 * 1024 * 1024 },
});
type Upload = { readonly buffer: Buffer } | undefined;

@Controller('api')
export class SourcesController {
  constructor(@Inject(SourcesService) readonly sources: SourcesService) {}

  @Get('projects/:projectId/sources')
  list(@Param('projectId', new Validated(identifier)) projectId: string): Promise<Source[]> {
    return this.sources.list(projectId);
  }

  @Post('projects/:projectId/sources')
  @UseInterceptors(OneFile)
  async create(
    @Param('projectId', new Validated(identifier)) projectId: string,
    @Body(new Validated(newSource)) body: SourceBody & { name: string },
    @UploadedFile() file: Upload,
    @Res({ passthrough: true }) response: Response,
  ): Promise<Source> {
    const source = await this.sources.create(projectId, body, file?.buffer);
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
    @UploadedFile() file: Upload,
    @Headers('if-match') match: string | undefined,
    @Res({ passthrough: true }) response: Response,
  ): Promise<Source> {
    const source = await this.sources.change(id, body, file?.buffer, match);
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
    @Headers('if-none-match') known: string | undefined,
    @Res() response: Response,
  ): Promise<void> {
    const { mime, hash, bytes } = await this.sources.content(id);
    response.setHeader('ETag', `"${hash}"`).setHeader('Cache-Control', 'no-cache');
    if (known === `"${hash}"`) response.status(304).end();
    else response.type(mime).send(bytes);
  }
}
