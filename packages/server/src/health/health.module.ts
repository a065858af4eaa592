import { Module, type DynamicModule } from '@nestjs/common';
import { HealthController } from './health.controller.ts';

@Module({})
export class HealthModule {
  /** With the module that knows of the queue. */
  static of(bakes: DynamicModule): DynamicModule {
    return { module: HealthModule, imports: [bakes], controllers: [HealthController] };
  }
}
