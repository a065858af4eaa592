import { Module } from '@nestjs/common';
import { ProjectsModule } from '../projects/projects.module.ts';
import { SetsController } from './sets.controller.ts';
import { SetsService } from './sets.service.ts';

@Module({ imports: [ProjectsModule], controllers: [SetsController], providers: [SetsService], exports: [SetsService] })
export class SetsModule {}
