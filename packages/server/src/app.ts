import { Module, type DynamicModule } from '@nestjs/common';
import { NestFactory } from '@nestjs/core';
import type { NestExpressApplication } from '@nestjs/platform-express';
import compression from 'compression';
import express from 'express';
import compressedFiles from 'express-static-gzip';
import helmet from 'helmet';
import type { Logger } from 'pino';
import { pinoHttp } from 'pino-http';
import type { Sequelize } from 'sequelize';
import { randomUUID } from 'node:crypto';
import { ApplicationPage } from './application-page.ts';
import { ExportsModule } from './exports/exports.module.ts';
import { ProblemFilter } from './http/problem.ts';
import { sameOrigin } from './http/same-origin.ts';
import { MeshesModule } from './meshes/meshes.module.ts';
import { MaterialsModule } from './materials/materials.module.ts';
import { ProjectsModule } from './projects/projects.module.ts';
import { SetsModule } from './sets/sets.module.ts';
import { SourcesModule } from './sources/sources.module.ts';
import { StorageModule } from './storage/storage.module.ts';

@Module({})
class AppModule {
  static forDatabase(sequelize: Sequelize): DynamicModule {
    return {
      module: AppModule,
      imports: [
        StorageModule.forDatabase(sequelize),
        ProjectsModule,
        MaterialsModule,
        SourcesModule,
        MeshesModule,
        SetsModule,
        ExportsModule,
      ],
    };
  }
}

export interface AppOptions {
  readonly sequelize: Sequelize;
  readonly log: Logger;
  /** Folder of the built web application; none is served where it is left out. */
  readonly web?: string;
  /** Host names, without a port, under which the server may be asked. */
  readonly hosts: readonly string[];
}

/** The whole server, not yet listening. */
export async function createApp({ sequelize, log, web, hosts }: AppOptions): Promise<NestExpressApplication> {
  const app = await NestFactory.create<NestExpressApplication>(AppModule.forDatabase(sequelize), {
    logger: false,
    bodyParser: false,
    abortOnError: false,
  });
  const page = web === undefined ? undefined : await ApplicationPage.of(app, web);
  app.use(
    pinoHttp({
      logger: log,
      genReqId: () => randomUUID(),
      customLogLevel: (_, response, error) => (error || response.statusCode >= 500 ? 'error' : 'debug'),
    }),
  );
  app.use(sameOrigin(new Set(hosts)));
  app.use(
    helmet({
      contentSecurityPolicy: {
        useDefaults: false,
        directives: {
          'default-src': ["'self'"],
          'script-src': ["'self'", "'wasm-unsafe-eval'", ...(page?.scripts ?? [])],
          // MUI and CodeMirror write their styles into the page.
          'style-src': ["'self'", "'unsafe-inline'"],
          'img-src': ["'self'", 'blob:', 'data:'],
          'worker-src': ["'self'"],
          'object-src': ["'none'"],
          'base-uri': ["'self'"],
          'form-action': ["'self'"],
          'frame-ancestors': ["'none'"],
        },
      },
      crossOriginEmbedderPolicy: true,
    }),
  );
  app.use(compression());
  app.use(express.json({ limit: '2mb' }));
  app.useGlobalFilters(new ProblemFilter(log));
  if (web !== undefined && page) {
    // The build has made them small already.
    app.use(
      '/assets',
      compressedFiles(`${web}/assets`, {
        enableBrotli: true,
        orderPreference: ['br', 'gz'],
        index: false,
        serveStatic: { immutable: true, maxAge: '365d', fallthrough: false },
      }),
    );
    app.use(express.static(web, { index: false }));
    // Every other address is a view of the application.
    app.use((request: express.Request, response: express.Response, next: express.NextFunction) => {
      if (request.method !== 'GET' || request.path.startsWith('/api')) next();
      else page.send(request, response).catch(next);
    });
  }
  await app.init();
  return app;
}
