import {
  identifier,
  type Material,
  type MaterialBody,
  materialBody,
  type Revision,
  type RevisionBody,
  revisionBody,
  revisionNumber,
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
  Patch,
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
import { MaterialsService } from './materials.service.ts';

@Controller('api')
export class MaterialsController {
  constructor(@Inject(MaterialsService) readonly materials: MaterialsService) {}

  @Get('projects/:projectId/materials')
  @UseInterceptors(Paged)
  list(
    @Param('projectId', new Validated(identifier)) projectId: string,
    @Query(new Validated(pageQuery)) query: PageQuery,
  ): Promise<Page<Material>> {
    return this.materials.page(projectId, query);
  }

  @Post('projects/:projectId/materials')
  async create(
    @Param('projectId', new Validated(identifier)) projectId: string,
    @Body(new Validated(materialBody)) body: MaterialBody,
    @Res({ passthrough: true }) response: Response,
  ): Promise<Material> {
    const material = await this.materials.create(projectId, body.text);
    response.setHeader('ETag', etag(material.revision)).setHeader('Location', `/api/materials/${material.id}`);
    return material;
  }

  @Get('materials/:id')
  async get(
    @Param('id', new Validated(identifier)) id: string,
    @Res({ passthrough: true }) response: Response,
  ): Promise<Material> {
    const material = await this.materials.get(id);
    response.setHeader('ETag', etag(material.revision));
    return material;
  }

  @Put('materials/:id')
  async save(
    @Param('id', new Validated(identifier)) id: string,
    @Body(new Validated(materialBody)) body: MaterialBody,
    @Headers('if-match') match: string | undefined,
    @Res({ passthrough: true }) response: Response,
  ): Promise<Material> {
    const material = await this.materials.save(id, body.text, match);
    response.setHeader('ETag', etag(material.revision));
    return material;
  }

  @Delete('materials/:id')
  @HttpCode(204)
  remove(
    @Param('id', new Validated(identifier)) id: string,
    @Headers('if-match') match: string | undefined,
  ): Promise<void> {
    return this.materials.remove(id, match);
  }

  /** Brings a deleted material back, with all its revisions. */
  @Post('materials/:id/restore')
  @HttpCode(200)
  restore(@Param('id', new Validated(identifier)) id: string): Promise<Material> {
    return this.materials.restore(id);
  }

  @Get('materials/:id/revisions')
  revisions(@Param('id', new Validated(identifier)) id: string): Promise<Revision[]> {
    return this.materials.revisions(id);
  }

  @Get('materials/:id/revisions/:number')
  revision(
    @Param('id', new Validated(identifier)) id: string,
    @Param('number', new Validated(revisionNumber)) number: number,
  ): Promise<Revision> {
    return this.materials.revision(id, number);
  }

  @Patch('materials/:id/revisions/:number')
  nameRevision(
    @Param('id', new Validated(identifier)) id: string,
    @Param('number', new Validated(revisionNumber)) number: number,
    @Body(new Validated(revisionBody)) body: RevisionBody,
  ): Promise<Revision> {
    return this.materials.nameRevision(id, number, body.name);
  }
}
