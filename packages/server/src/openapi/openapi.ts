import type { NestExpressApplication } from '@nestjs/platform-express';
import { SwaggerModule } from '@nestjs/swagger';
import { openApiDocument } from './document.ts';

/** Serves the description of the API, and a page to read and try it: all from here, nothing from the network. */
export function serveOpenApi(app: NestExpressApplication): void {
  SwaggerModule.setup('api/docs', app, openApiDocument, {
    jsonDocumentUrl: 'api/openapi.json',
    yamlDocumentUrl: 'api/openapi.yaml',
    customSiteTitle: 'Estela: API',
    swaggerOptions: { validatorUrl: null, docExpansion: 'list' },
  });
}
