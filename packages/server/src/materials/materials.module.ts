import { Module } from '@nestjs/common';
import { ProjectsModule } from '../projects/projects.module.ts';
import { MaterialsController } from './materials.controller.ts';
import { MaterialsService } from './materials.service.ts';

@Module({
  imports: [ProjectsModule],
  controllers: [MaterialsController],
  providers: [MaterialsService],
  exports: [MaterialsService],
})
export class MaterialsModule {}
