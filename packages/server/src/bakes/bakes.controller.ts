import { bakeBody, identifier, pageQuery, type Bake, type PageQuery } from '@estela/contract';
import type { BakeRecipe } from '@estela/core';
import {
  Body,
  Controller,
  Delete,
  Get,
  HttpCode,
  Inject,
  Param,
  Post,
  Query,
  Req,
  Res,
  StreamableFile,
  UseInterceptors,
} from '@nestjs/common';
import type { Request, Response } from 'express';
import { sendContent } from '../http/content.ts';
import { Paged, type Page } from '../http/paged.ts';
import { Validated } from '../http/validate.ts';
import { BakesService } from './bakes.service.ts';

@Controller('api')
export class BakesController {
  constructor(@Inject(BakesService) readonly bakes: BakesService) {}

  @Post('materials/:id/bakes')
  @HttpCode(202)
  async create(
    @Param('id', new Validated(identifier)) id: string,
    @Body(new Validated(bakeBody)) recipe: BakeRecipe,
    @Res({ passthrough: true }) response: Response,
  ): Promise<Bake> {
    const bake = await this.bakes.create(id, recipe);
    response.setHeader('Location', `/api/bakes/${bake.id}`);
    return bake;
  }

  @Get('projects/:projectId/bakes')
  @UseInterceptors(Paged)
  list(
    @Param('projectId', new Validated(identifier)) projectId: string,
    @Query(new Validated(pageQuery)) query: PageQuery,
  ): Promise<Page<Bake>> {
    return this.bakes.page(projectId, query);
  }

  @Get('bakes/:id')
  get(@Param('id', new Validated(identifier)) id: string): Promise<Bake> {
    return this.bakes.get(id);
  }

  @Post('bakes/:id/retry')
  @HttpCode(202)
  retry(@Param('id', new Validated(identifier)) id: string): Promise<Bake> {
    return this.bakes.retry(id);
  }

  @Delete('bakes/:id')
  @HttpCode(204)
  remove(@Param('id', new Validated(identifier)) id: string): Promise<void> {
    return this.bakes.remove(id);
  }

  @Get('bakes/:id/file')
  async file(
    @Param('id', new Validated(identifier)) id: string,
    @Req() request: Request,
    @Res() response: Response,
  ): Promise<void> {
    const { name, content } = await this.bakes.content(id);
    // Saved under its name; shown where a picture is asked for.
    response.setHeader('Content-Disposition', `inline; filename="${name}"`);
    await sendContent(request, response, content);
  }

  @Get('bakes/:id/manifest.json')
  async manifest(@Param('id', new Validated(identifier)) id: string): Promise<StreamableFile> {
    return new StreamableFile(Buffer.from(await this.bakes.manifest(id)), { type: 'application/json; charset=utf-8' });
  }

  @Get('bakes/:id/picture')
  async picture(
    @Param('id', new Validated(identifier)) id: string,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StreamableFile> {
    const picture = await this.bakes.picture(id);
    // A bake never shows another.
    response.setHeader('Cache-Control', 'private, max-age=31536000, immutable');
    return new StreamableFile(picture, { type: 'image/png' });
  }
}
