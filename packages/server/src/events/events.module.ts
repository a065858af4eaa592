import { Global, Module } from '@nestjs/common';
import { EventsService } from './events.service.ts';
import { ToldWrites } from './told-writes.ts';

@Global()
@Module({ providers: [EventsService, ToldWrites], exports: [EventsService, ToldWrites] })
export class EventsModule {}
