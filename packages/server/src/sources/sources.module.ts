import { Module } from '@nestjs/common';
import { ProjectsModule } from '../projects/projects.module.ts';
import { SourcesController } from './sources.controller.ts';
import { SourcesService } from './sources.service.ts';

@Module({
  imports: [ProjectsModule],
  controllers: [SourcesController],
  providers: [SourcesService],
  exports: [SourcesService],
})
export class SourcesModule {}
