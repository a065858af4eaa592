import {
  changedProject,
  identifier,
  newProject,
  type Project,
  type ProjectBody,
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
  Query,
  Res,
  UseInterceptors,
} from '@nestjs/common';
import type { Response } from 'express';
import { etag } from '../http/etag.ts';
import { Paged, type Page } from '../http/paged.ts';
import { Validated } from '../http/validate.ts';
import { ProjectsService } from './projects.service.ts';

@Controller('api/projects')
export class ProjectsController {
  constructor(@Inject(ProjectsService) readonly projects: ProjectsService) {}

  @Get()
  @UseInterceptors(Paged)
  list(@Query(new Validated(pageQuery)) query: PageQuery): Promise<Page<Project>> {
    return this.projects.page(query);
  }

  @Post()
  async create(
    @Body(new Validated(newProject)) body: ProjectBody,
    @Res({ passthrough: true }) response: Response,
  ): Promise<Project> {
    const project = await this.projects.create(body);
    response.setHeader('ETag', etag(project.version)).setHeader('Location', `/api/projects/${project.id}`);
    return project;
  }

  @Get(':id')
  async get(
    @Param('id', new Validated(identifier)) id: string,
    @Res({ passthrough: true }) response: Response,
  ): Promise<Project> {
    const project = await this.projects.get(id);
    response.setHeader('ETag', etag(project.version));
    return project;
  }

  @Patch(':id')
  async change(
    @Param('id', new Validated(identifier)) id: string,
    @Body(new Validated(changedProject)) body: Partial<ProjectBody>,
    @Headers('if-match') match: string | undefined,
    @Res({ passthrough: true }) response: Response,
  ): Promise<Project> {
    const project = await this.projects.change(id, body, match);
    response.setHeader('ETag', etag(project.version));
    return project;
  }

  @Delete(':id')
  @HttpCode(204)
  remove(
    @Param('id', new Validated(identifier)) id: string,
    @Headers('if-match') match: string | undefined,
  ): Promise<void> {
    return this.projects.remove(id, match);
  }
}
