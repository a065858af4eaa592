import { Module, type DynamicModule } from '@nestjs/common';
import { NestFactory } from '@nestjs/core';
import type { NestExpressApplication } from '@nestjs/platform-express';
import compression from 'compression';
import express from 'express';
import compressedFiles from 'express-static-gzip';
import helmet from 'helmet';
import type { Logger } from 'pino';
import { pinoHttp } from 'pino-http';
import { randomUUID } from 'node:crypto';
import { availableParallelism } from 'node:os';
import { access, type AccessOptions } from './access/access.ts';
import { ApplicationPage } from './application-page.ts';
import { BakesModule } from './bakes/bakes.module.ts';
import type { BakedBy } from './bakes/bakes.service.ts';
import type { RedisQueue } from './bakes/queue/redis-engine.ts';
import { EventsModule } from './events/events.module.ts';
import { ExportsModule } from './exports/exports.module.ts';
import { HealthModule } from './health/health.module.ts';
import { limited } from './http/limit.ts';
import { onlyItsMethods } from './http/methods.ts';
import { ProblemFilter } from './http/problem.ts';
import { MeshesModule } from './meshes/meshes.module.ts';
import { MaterialsModule } from './materials/materials.module.ts';
import { serveOpenApi } from './openapi/openapi.ts';
import { ProjectsModule } from './projects/projects.module.ts';
import { SetsModule } from './sets/sets.module.ts';
import { SourcesModule } from './sources/sources.module.ts';
import { StartsModule } from './starts/starts.module.ts';
import type { Database } from './storage/database.ts';
import { StorageModule } from './storage/storage.module.ts';
import { UploadsModule } from './uploads/uploads.module.ts';

@Module({})
class AppModule {
  static of(database: Database, by: BakedBy): DynamicModule {
    const bakes = BakesModule.by(by);
    return {
      module: AppModule,
      imports: [
        StorageModule.forDatabase(database),
        ProjectsModule,
        MaterialsModule,
        SourcesModule,
        MeshesModule,
        SetsModule,
        UploadsModule,
        EventsModule,
        ExportsModule,
        bakes,
        HealthModule.of(bakes),
        StartsModule,
      ],
    };
  }
}

/** As many requests in ten seconds as a team behind one proxy hardly makes: a page that opens asks for some forty. */
const REQUESTS = 6000;

export interface AppOptions {
  readonly database: Database;
  readonly log: Logger;
  /** Folder of the built web application; none is served where it is left out. */
  readonly web?: string;
  /** Host names, without a port, under which the server may be asked. */
  readonly hosts: readonly string[];
  /** SHA-256 of the token that must be shown; none where only this machine can come in. */
  readonly tokenHash?: AccessOptions['tokenHash'];
  /** Most requests of one address in ten seconds. */
  readonly requests?: number | undefined;
  /** Threads that bake; as many as there are cores. */
  readonly jobs?: number | undefined;
  /** The queue in Redis whose workers bake instead. */
  readonly redis?: RedisQueue | undefined;
  /** Certificate and key in PEM, for https. */
  readonly tls?: { readonly cert: Buffer; readonly key: Buffer } | undefined;
}

/** The whole server, not yet listening. */
export async function createApp({
  database,
  log,
  web,
  hosts,
  tokenHash,
  tls,
  requests = REQUESTS,
  jobs = availableParallelism(),
  redis,
}: AppOptions): Promise<NestExpressApplication> {
  const app = await NestFactory.create<NestExpressApplication>(AppModule.of(database, redis ?? { jobs }), {
    logger: false,
    bodyParser: false,
    abortOnError: false,
    ...(tls ? { httpsOptions: tls } : {}),
  });
  const page = web === undefined ? undefined : await ApplicationPage.of(app, web);
  app.use(
    pinoHttp({
      logger: log,
      // In the answer, in every line of the log, and in what a user can send along with a report.
      genReqId: (_, response) => {
        const id = randomUUID();
        response.setHeader('X-Request-Id', id);
        return id;
      },
      customLogLevel: (_, response, error) =>
        error || response.statusCode >= 500 ? 'error' : response.statusCode >= 400 ? 'warn' : 'info',
      // A line says who asked for what; queries may hold what is not to be kept.
      serializers: {
        req: ({ id, method, url }: { id: string; method: string; url: string }) => ({
          id,
          method,
          url: url.replace(/\?.*/, ''),
        }),
        res: ({ statusCode }: { statusCode: number }) => ({ statusCode }),
      },
    }),
  );
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
          // Pictures of a GLB that is played are blobs of the page's own.
          'connect-src': ["'self'", 'blob:'],
          'object-src': ["'none'"],
          'base-uri': ["'self'"],
          'form-action': ["'self'"],
          'frame-ancestors': ["'none'"],
        },
      },
      crossOriginEmbedderPolicy: true,
      // It would hold for all that is served under this name: that is for whoever owns it to say.
      strictTransportSecurity: false,
    }),
  );
  app.use(limited(requests));
  app.use(access({ hosts: new Set(hosts), tokenHash, secure: tls !== undefined }));
  app.use(onlyItsMethods);
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
  serveOpenApi(app);
  await app.init();
  return app;
}
