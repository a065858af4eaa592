import { Global, Module, type DynamicModule } from '@nestjs/common';
import { Database } from './database.ts';
import { WriteQueue } from './write-queue.ts';

@Global()
@Module({})
export class StorageModule {
  static forDatabase(database: Database): DynamicModule {
    return {
      module: StorageModule,
      providers: [
        { provide: Database, useValue: database },
        { provide: WriteQueue, useValue: new WriteQueue() },
      ],
      exports: [Database, WriteQueue],
    };
  }
}
