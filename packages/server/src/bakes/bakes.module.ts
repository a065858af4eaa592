import { Module, type DynamicModule } from '@nestjs/common';
import { MaterialsModule } from '../materials/materials.module.ts';
import { ProjectsModule } from '../projects/projects.module.ts';
import { SourcesModule } from '../sources/sources.module.ts';
import { BakesController } from './bakes.controller.ts';
import { BAKE_THREADS, BakesService } from './bakes.service.ts';

@Module({})
export class BakesModule {
  static withThreads(threads: number): DynamicModule {
    return {
      module: BakesModule,
      imports: [ProjectsModule, MaterialsModule, SourcesModule],
      controllers: [BakesController],
      providers: [BakesService, { provide: BAKE_THREADS, useValue: threads }],
    };
  }
}
