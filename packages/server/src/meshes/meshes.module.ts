import { Module } from '@nestjs/common';
import { ProjectsModule } from '../projects/projects.module.ts';
import { MeshesController } from './meshes.controller.ts';
import { MeshReader } from './mesh-reader.ts';
import { MeshesService } from './meshes.service.ts';

@Module({
  imports: [ProjectsModule],
  controllers: [MeshesController],
  providers: [MeshesService, MeshReader],
  exports: [MeshesService],
})
export class MeshesModule {}
