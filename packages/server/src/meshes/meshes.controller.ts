import { changedMesh, identifier, type MeshBody, type NewMesh, newMesh, type StoredMesh } from '@estela/contract';
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
import { MeshesService } from './meshes.service.ts';

/** One GLB, `file`, in a form; its other fields are those of MeshBody. */
const OneFile = FileInterceptor('file', { limits: { fileSize: BYTE_LIMIT, files: 1, fields: 4 } });
type Upload = { readonly buffer: Buffer } | undefined;

@Controller('api')
export class MeshesController {
  constructor(@Inject(MeshesService) readonly meshes: MeshesService) {}

  @Get('projects/:projectId/meshes')
  list(@Param('projectId', new Validated(identifier)) projectId: string): Promise<StoredMesh[]> {
    return this.meshes.list(projectId);
  }

  @Post('projects/:projectId/meshes')
  @UseInterceptors(OneFile)
  async create(
    @Param('projectId', new Validated(identifier)) projectId: string,
    @Body(new Validated(newMesh)) body: NewMesh,
    @UploadedFile() file: Upload,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StoredMesh> {
    const mesh = await this.meshes.create(projectId, body, file?.buffer);
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
    @UploadedFile() file: Upload,
    @Headers('if-match') match: string | undefined,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StoredMesh> {
    const mesh = await this.meshes.change(id, body, file?.buffer, match);
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
    @Headers('if-none-match') known: string | undefined,
    @Res() response: Response,
  ): Promise<void> {
    const { hash, bytes } = await this.meshes.content(id);
    response.setHeader('ETag', `"${hash}"`).setHeader('Cache-Control', 'no-cache');
    if (known === `"${hash}"`) response.status(304).end();
    else response.type('model/gltf-binary').send(bytes);
  }
}
