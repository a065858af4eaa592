import {
  identifier,
  startBody,
  startImageName,
  startName,
  type Material,
  type Start,
  type StartBody,
} from '@estela/contract';
import { Body, Controller, Get, Header, Inject, Param, Post, Res, StreamableFile } from '@nestjs/common';
import type { Response } from 'express';
import { etag } from '../http/etag.ts';
import { Validated } from '../http/validate.ts';
import { StartsService } from './starts.service.ts';

@Controller('api')
export class StartsController {
  constructor(@Inject(StartsService) readonly starts: StartsService) {}

  @Get('starts')
  list(): Promise<readonly Start[]> {
    return this.starts.list();
  }

  @Get('starts/images/:name')
  @Header('Cache-Control', 'max-age=3600')
  async picture(@Param('name', new Validated(startImageName)) name: string): Promise<StreamableFile> {
    return new StreamableFile(await this.starts.picture(name), { type: 'image/png' });
  }

  /** Makes a material of a start. */
  @Post('projects/:projectId/starts/:name')
  async begin(
    @Param('projectId', new Validated(identifier)) projectId: string,
    @Param('name', new Validated(startName)) name: string,
    @Body(new Validated(startBody)) { title }: StartBody,
    @Res({ passthrough: true }) response: Response,
  ): Promise<Material> {
    const material = await this.starts.begin(projectId, name, title);
    response.setHeader('ETag', etag(material.revision)).setHeader('Location', `/api/materials/${material.id}`);
    return material;
  }
}
