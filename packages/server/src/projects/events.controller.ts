import { identifier } from '@estela/contract';
import { Controller, Get, Headers, Inject, Param, Res } from '@nestjs/common';
import type { Response } from 'express';
import { EventsService, type Told } from '../events/events.service.ts';
import { busy } from '../http/problem.ts';
import { Validated } from '../http/validate.ts';
import { ProjectsService } from './projects.service.ts';

/** Milliseconds after which a line goes by, so that nobody in between takes the connection for dead. */
const BEAT = 25_000;

@Controller('api')
export class EventsController {
  constructor(
    @Inject(EventsService) readonly events: EventsService,
    @Inject(ProjectsService) readonly projects: ProjectsService,
  ) {}

  /**
   * What changes in a project, as server-sent events named `change`; `reset` where what came since `Last-Event-ID` is
   * not known any more, so that all is to be read anew.
   */
  @Get('projects/:projectId/events')
  async follow(
    @Param('projectId', new Validated(identifier)) projectId: string,
    @Headers('last-event-id') last: string | undefined,
    @Res() response: Response,
  ): Promise<void> {
    await this.projects.row(projectId);
    this.#follow(projectId, last, response);
  }

  /** The same of all projects, of which the events tell. */
  @Get('events')
  followAll(@Headers('last-event-id') last: string | undefined, @Res() response: Response): void {
    this.#follow(undefined, last, response);
  }

  #follow(projectId: string | undefined, last: string | undefined, response: Response): void {
    const write = ({ id, event }: Told): void => {
      response.write(`id: ${id}\nevent: change\ndata: ${JSON.stringify(event)}\n\n`);
    };
    const over = this.events.follow(projectId, write, () => {
      response.end();
    });
    if (!over) throw busy();
    const beat = setInterval(() => {
      response.write(':\n\n');
    }, BEAT);
    response.on('close', () => {
      clearInterval(beat);
      over();
    });
    response.writeHead(200, {
      'Content-Type': 'text/event-stream; charset=utf-8',
      // Not to be collected until it is worth compressing.
      'Cache-Control': 'no-store, no-transform',
      'X-Accel-Buffering': 'no',
    });
    const missed = last === undefined ? [] : this.events.since(projectId, last);
    if (missed) missed.forEach(write);
    else response.write('event: reset\ndata: {}\n\n');
    // Where to go on from, also before anything has happened.
    response.write(`id: ${this.events.newest(projectId)}\nevent: ready\ndata: {}\n\n`);
  }
}
