import {
  exportQuery,
  exportsQuery,
  identifier,
  materialGlbQuery,
  setGlbQuery,
  type ExportQuery,
  type ExportsQuery,
  type MaterialGlbQuery,
  type SetGlbQuery,
} from '@estela/contract';
import { Controller, Get, Inject, Param, Query, Res, StreamableFile } from '@nestjs/common';
import type { Response } from 'express';
import { notFound } from '../http/problem.ts';
import { Validated } from '../http/validate.ts';
import { ExportsService, type Exported } from './exports.service.ts';
import { GlbService } from './glb.service.ts';

/** What the page of a package may do in a frame of ours: run what is in it, and nothing else. */
const PLAYER_POLICY = [
  "default-src 'none'",
  "script-src 'unsafe-inline'",
  "style-src 'unsafe-inline'",
  'img-src data: blob:',
  'connect-src data:',
  "frame-ancestors 'self'",
  'sandbox allow-scripts',
].join('; ');

@Controller('api')
export class ExportsController {
  constructor(
    @Inject(ExportsService) readonly exported: ExportsService,
    @Inject(GlbService) readonly glbs: GlbService,
  ) {}

  @Get('materials/:id/export.zip')
  async one(
    @Param('id', new Validated(identifier)) id: string,
    @Query(new Validated(exportQuery)) how: ExportQuery,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StreamableFile> {
    return asFile(await this.exported.zip(id, how), ZIP, response);
  }

  @Get('projects/:id/export.zip')
  async several(
    @Param('id', new Validated(identifier)) id: string,
    @Query(new Validated(exportsQuery)) how: ExportsQuery,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StreamableFile> {
    return asFile(await this.exported.zipAll(id, how), ZIP, response);
  }

  @Get('materials/:id/export.glb')
  async material(
    @Param('id', new Validated(identifier)) id: string,
    @Query(new Validated(materialGlbQuery)) how: MaterialGlbQuery,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StreamableFile> {
    return asFile(await this.glbs.material(id, how, goneSignal(response)), GLB, response);
  }

  @Get('sets/:id/export.glb')
  async set(
    @Param('id', new Validated(identifier)) id: string,
    @Query(new Validated(setGlbQuery)) how: SetGlbQuery,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StreamableFile> {
    return asFile(await this.glbs.set(id, how, goneSignal(response)), GLB, response);
  }

  /** The page that plays a material, as it is in its package. */
  @Get('materials/:id/export/index.html')
  async page(
    @Param('id', new Validated(identifier)) id: string,
    @Query(new Validated(exportQuery.unknown())) how: ExportQuery,
    @Res({ passthrough: true }) response: Response,
  ): Promise<StreamableFile> {
    const { target, variant, normalY, leaveOutMissing } = how;
    const page = (
      await this.exported.files(id, {
        ...(target ? { target } : {}),
        ...(variant === undefined ? {} : { variant }),
        normalY,
        leaveOutMissing,
      })
    ).get('index.html');
    if (!page) throw notFound('page');
    response.setHeader('Content-Security-Policy', PLAYER_POLICY).setHeader('Cache-Control', 'no-cache');
    return new StreamableFile(page, { type: 'text/html; charset=utf-8' });
  }
}

/** Aborts once whoever asked is gone before the answer was. */
function goneSignal(response: Response): AbortSignal {
  const abort = new AbortController();
  response.once('close', () => {
    if (!response.writableFinished) abort.abort();
  });
  return abort.signal;
}

const ZIP = { type: 'application/zip', ending: 'zip' } as const;
const GLB = { type: 'model/gltf-binary', ending: 'glb' } as const;

function asFile(
  { name, bytes }: Exported,
  { type, ending }: typeof ZIP | typeof GLB,
  response: Response,
): StreamableFile {
  response.setHeader('Cache-Control', 'no-cache');
  return new StreamableFile(bytes, {
    type,
    disposition: `attachment; filename="${name}.${ending}"`,
    length: bytes.length,
  });
}
