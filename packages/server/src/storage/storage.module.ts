import { Global, Module, type DynamicModule } from '@nestjs/common';
import { Sequelize } from 'sequelize';
import { migrate } from './migrations.ts';
import { initialiseModels } from './models.ts';
import { WriteQueue } from './write-queue.ts';

/** Opens a database file, makes or updates its tables, and ties the models to it. */
export async function openDatabase(file: string): Promise<Sequelize> {
  const sequelize = new Sequelize({ dialect: 'sqlite', storage: file, logging: false });
  await sequelize.query('PRAGMA journal_mode = WAL');
  await sequelize.query('PRAGMA foreign_keys = ON');
  initialiseModels(sequelize);
  await migrate(sequelize);
  return sequelize;
}

@Global()
@Module({})
export class StorageModule {
  static forDatabase(sequelize: Sequelize): DynamicModule {
    return {
      module: StorageModule,
      providers: [
        { provide: Sequelize, useValue: sequelize },
        { provide: WriteQueue, useValue: new WriteQueue() },
      ],
      exports: [Sequelize, WriteQueue],
    };
  }
}
