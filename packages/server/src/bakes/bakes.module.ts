import { Module, type DynamicModule } from '@nestjs/common';
import { MaterialsModule } from '../materials/materials.module.ts';
import { ProjectsModule } from '../projects/projects.module.ts';
import { SourcesModule } from '../sources/sources.module.ts';
import { BakesController } from './bakes.controller.ts';
import { BAKED_BY, BakesService, type BakedBy } from './bakes.service.ts';
import { WorkersController } from './workers/workers.controller.ts';
import { WorkersService } from './workers/workers.service.ts';

@Module({})
export class BakesModule {
  static by(by: BakedBy): DynamicModule {
    return {
      module: BakesModule,
      imports: [ProjectsModule, MaterialsModule, SourcesModule],
      controllers: [BakesController, WorkersController],
      providers: [BakesService, WorkersService, { provide: BAKED_BY, useValue: by }],
      exports: [BakesService, WorkersService],
    };
  }
}
