import { Module } from '@nestjs/common';
import { MaterialsModule } from '../materials/materials.module.ts';
import { MeshesModule } from '../meshes/meshes.module.ts';
import { SetsModule } from '../sets/sets.module.ts';
import { SourcesModule } from '../sources/sources.module.ts';
import { ExportsController } from './exports.controller.ts';
import { GlbService } from './glb.service.ts';
import { ExportsService } from './exports.service.ts';

@Module({
  imports: [MaterialsModule, MeshesModule, SetsModule, SourcesModule],
  controllers: [ExportsController],
  providers: [ExportsService, GlbService],
})
export class ExportsModule {}
