import { Module } from '@nestjs/common';
import { MaterialsModule } from '../materials/materials.module.ts';
import { ProjectsModule } from '../projects/projects.module.ts';
import { SourcesModule } from '../sources/sources.module.ts';
import { StartsController } from './starts.controller.ts';
import { StartsService } from './starts.service.ts';

@Module({
  imports: [ProjectsModule, MaterialsModule, SourcesModule],
  controllers: [StartsController],
  providers: [StartsService],
})
export class StartsModule {}
