import { Module } from '@nestjs/common';
import { ProjectsModule } from '../projects/projects.module.ts';
import { MeshesController } from './meshes.controller.ts';
import { MeshesService } from './meshes.service.ts';

@Module({ imports: [ProjectsModule], controllers: [MeshesController], providers: [MeshesService], exports: [MeshesService] })
export class MeshesModule {}
