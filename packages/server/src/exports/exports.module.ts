import { Module } from '@nestjs/common';
import { MaterialsModule } from '../materials/materials.module.ts';
import { SourcesModule } from '../sources/sources.module.ts';
import { ExportsController } from './exports.controller.ts';
import { ExportsService } from './exports.service.ts';

@Module({
  imports: [MaterialsModule, SourcesModule],
  controllers: [ExportsController],
  providers: [ExportsService],
})
export class ExportsModule {}
