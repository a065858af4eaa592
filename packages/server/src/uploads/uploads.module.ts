import { Global, Module } from '@nestjs/common';
import { APP_GUARD } from '@nestjs/core';
import { join } from 'node:path';
import { Database } from '../storage/database.ts';
import { BodyType } from './body-type.ts';
import { Uploads } from './uploads.ts';

@Global()
@Module({
  providers: [
    { provide: APP_GUARD, useClass: BodyType },
    {
      provide: Uploads,
      inject: [Database],
      useFactory: (database: Database) => new Uploads(join(database.folder, 'uploads')),
    },
  ],
  exports: [Uploads],
})
export class UploadsModule {}
