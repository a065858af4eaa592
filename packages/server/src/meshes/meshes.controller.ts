import {
  changedMesh,
  identifier,
  type MeshBody,
  type NewMesh,
  newMesh,
  type StoredMesh,
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
import { MeshesService } from './meshes.service.ts';

@Controller('api')
export class MeshesController {
  constructor(@Inject(MeshesService) readonly meshes: MeshesService) {}

  @Get('projects/:projectId/meshes')
  @UseInterceptors(Paged)
  list(
    @Param('projectId', new Validated(identifier)) projectId: string,
    @Query(new Validated(pageQuery)) query: PageQuery,
  ): Promise<Page<StoredMesh>> {
    return this.meshes.page(projectId, query);
  }

  @Post('projects/:projectId/meshes')
  @UseInterceptors(OneFile)
  async create(
    @Param('projectId', new Validated(identifier)) projectId: string,
    @Body(new Validated(newMesh)) body: NewMesh,
    @UploadedFile() file: Upload | undefined,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StoredMesh> {
    const mesh = await this.meshes.create(projectId, body, file);
    response.setHeader('ETag', etag(mesh.version)).setHeader('Location', `/api/meshes/${mesh.id}`);
    return mesh;
  }

  @Get('meshes/:id')
  async get(
    @Param('id', new Validated(identifier)) id: string,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StoredMesh> {
    const mesh = await this.meshes.get(id);
    response.setHeader('ETag', etag(mesh.version));
    return mesh;
  }

  @Put('meshes/:id')
  @UseInterceptors(OneFile)
  async change(
    @Param('id', new Validated(identifier)) id: string,
    @Body(new Validated(changedMesh)) body: MeshBody,
    @UploadedFile() file: Upload | undefined,
    @Headers('if-match') match: string | undefined,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StoredMesh> {
    const mesh = await this.meshes.change(id, body, file, match);
    response.setHeader('ETag', etag(mesh.version));
    return mesh;
  }

  @Delete('meshes/:id')
  @HttpCode(204)
  remove(
    @Param('id', new Validated(identifier)) id: string,
    @Headers('if-match') match: string | undefined,
  ): Promise<void> {
    return this.meshes.remove(id, match);
  }

  @Get('meshes/:id/content')
  async content(
    @Param('id', new Validated(identifier)) id: string,
    @Req() request: Request,
    @Res() response: Response,
  ): Promise<void> {
    await sendContent(request, response, await this.meshes.content(id));
  }
}
