import { Module } from '@nestjs/common';
import { EventsController } from './events.controller.ts';
import { ProjectsController } from './projects.controller.ts';
import { ProjectsService } from './projects.service.ts';

@Module({
  controllers: [ProjectsController, EventsController],
  providers: [ProjectsService],
  exports: [ProjectsService],
})
export class ProjectsModule {}
