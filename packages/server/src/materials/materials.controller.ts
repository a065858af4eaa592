import { Body, Controller, Delete, Get, Headers, HttpCode, Inject, Param, Post, Put, Res } from '@nestjs/common';
import type { Response } from 'express';
import { etag } from '../http/etag.ts';
import { Validated } from '../http/validate.ts';
import { identifier } from '../projects/projects.schema.ts';
import { materialBody, revisionNumber, type MaterialBody } from './materials.schema.ts';
import { MaterialsService, type MaterialView, type RevisionView } from './materials.service.ts';

@Controller('api')
export class MaterialsController {
  constructor(@Inject(MaterialsService) readonly materials: MaterialsService) {}

  @Get('projects/:projectId/materials')
  list(@Param('projectId', new Validated(identifier)) projectId: string): Promise<MaterialView[]> {
    return this.materials.list(projectId);
  }

  @Post('projects/:projectId/materials')
  async create(
    @Param('projectId', new Validated(identifier)) projectId: string,
    @Body(new Validated(materialBody)) body: MaterialBody,
    @Res({ passthrough: true }) response: Response,
  ): Promise<MaterialView> {
    const material = await this.materials.create(projectId, body.text);
    response.setHeader('ETag', etag(material.revision)).setHeader('Location', `/api/materials/${material.id}`);
    return material;
  }

  @Get('materials/:id')
  async get(@Param('id', new Validated(identifier)) id: string, @Res({ passthrough: true }) response: Response): Promise<MaterialView> {
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
  ): Promise<MaterialView> {
    const material = await this.materials.save(id, body.text, match);
    response.setHeader('ETag', etag(material.revision));
    return material;
  }

  @Delete('materials/:id')
  @HttpCode(204)
  remove(@Param('id', new Validated(identifier)) id: string, @Headers('if-match') match: string | undefined): Promise<void> {
    return this.materials.remove(id, match);
  }

  @Get('materials/:id/revisions')
  revisions(@Param('id', new Validated(identifier)) id: string): Promise<RevisionView[]> {
    return this.materials.revisions(id);
  }

  @Get('materials/:id/revisions/:number')
  revision(@Param('id', new Validated(identifier)) id: string, @Param('number', new Validated(revisionNumber)) number: number): Promise<RevisionView> {
    return this.materials.revision(id, number);
  }
}
