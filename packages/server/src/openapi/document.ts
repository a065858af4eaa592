import { OPERATIONS, PARAMETERS, problemAnswer, type Operation } from '@estela/contract';
import type { OpenAPIObject } from '@nestjs/swagger';
import toSchema from 'joi-to-swagger';
import type Joi from 'joi';

type Json = Readonly<Record<string, unknown>>;

/** What a refusal means, by its status. */
const REFUSALS: Readonly<Record<number, string>> = {
  400: 'Not valid: `errors` says where.',
  401: 'The token of this server is needed.',
  403: 'Requests under this host name, or from this page, are not allowed.',
  404: 'Not found; it may have been deleted.',
  409: 'The name is in use, its state does not allow it, or this worker has another version.',
  412: 'Changed elsewhere since it was read; nothing was overwritten. `current` is its version.',
  413: 'Too large.',
  415: 'Not an accepted type.',
  416: 'None of its bytes are in this range.',
  422: 'Understood, but it cannot be done: a broken file, or a material that cannot be exported or baked with these settings.',
  428: '`If-Match` is needed.',
  429: 'Too many requests, or wrong tokens: `Retry-After` says when to try again.',
  500: 'Server error; the log has the details under this `X-Request-Id`.',
  503: 'Too many pages are connected, or the server is still starting.',
  507: 'The disk is full: nothing was saved.',
};

/** Of no bytes at all (RFC 9530). */
const DIGEST = 'sha-256=:47DEQpj8HBSa+/TImW+5JCeuQeRkm5NMpJWZG3hSuFU=:';

const namesIn = (path: string): string[] => [...path.matchAll(/\{(\w+)\}/g)].map(([, name = '']) => name);

/** Every status that a call may refuse with. */
export function refusalsOf({
  method,
  path,
  query,
  body,
  bytes,
  match,
  ranged,
  refuses = [],
}: Operation): readonly number[] {
  const named = namesIn(path).length > 0;
  return [
    ...new Set([
      ...(named || query || body ? [400] : []),
      ...[401, 403, 429, 500],
      ...(named ? [404] : []),
      ...(match ? [412, 428] : []),
      ...(body || bytes ? [413, 415] : []),
      ...(ranged ? [416] : []),
      ...(method === 'get' ? [] : [507]),
      ...refuses,
    ]),
  ].sort((a, b) => a - b);
}

const header = (description: string, type = 'string'): Json => ({ description, schema: { type } });

/** The API as OpenAPI 3.0 (https://spec.openapis.org/oas/v3.0.3), made from the schemas that validate it. */
export function openApiDocument(): OpenAPIObject {
  const schemas: Record<string, unknown> = {};
  /** A schema; those that have a name of their own are described once, and referred to. */
  const schemaOf = (joi: Joi.Schema): Json => {
    const { swagger, components } = toSchema(joi, { schemas });
    Object.assign(schemas, components?.schemas);
    return swagger;
  };

  const contentOf = (answer: NonNullable<Operation['answer']>): Json =>
    typeof answer === 'string'
      ? { [answer]: { schema: { type: 'string', ...(answer.startsWith('text/') ? {} : { format: 'binary' }) } } }
      : { 'application/json': { schema: schemaOf(answer) } };

  const answersOf = (operation: Operation): Json => {
    const { status, answer, paged, tagged, ranged } = operation;
    const headers = {
      'X-Request-Id': header('The name of the request in the log.'),
      ...(paged ? { Link: header('The next page, where there is one (RFC 8288).') } : {}),
      ...(tagged || ranged ? { ETag: header('What `If-Match` and `If-None-Match` take.') } : {}),
      ...(status === 201 ? { Location: header('Where it is.') } : {}),
    };
    const done = { headers, ...(answer ? { content: contentOf(answer) } : {}) };
    return {
      [status]: { description: 'Done.', ...done },
      ...(ranged
        ? {
            206: { description: 'The bytes of the range.', ...done },
            304: { description: 'Not modified.' },
          }
        : {}),
      ...(operation.name === 'readHealth' ? { 503: { description: 'It cannot.', ...done } } : {}),
      ...Object.fromEntries(
        refusalsOf(operation).map((refusal) => [refusal, { $ref: `#/components/responses/${String(refusal)}` }]),
      ),
    };
  };

  const parametersOf = ({ path, query, match, name, bytes, ranged }: Operation): readonly Json[] => {
    const { properties = {}, required = [] } = (query ? schemaOf(query) : {}) as {
      properties?: Record<string, Json>;
      required?: readonly string[];
    };
    return [
      ...namesIn(path).map((at) => ({ name: at, in: 'path', required: true, schema: schemaOf(PARAMETERS[at]!) })),
      ...Object.entries(properties).map(([at, schema]) => ({
        name: at,
        in: 'query',
        required: required.includes(at),
        schema,
      })),
      ...(match
        ? [{ name: 'If-Match', in: 'header', required: true, schema: { type: 'string' }, example: '"1"' }]
        : []),
      ...(bytes
        ? [{ name: 'Content-Digest', in: 'header', required: true, schema: { type: 'string', example: DIGEST } }]
        : []),
      ...(ranged ? [{ name: 'v', in: 'query', required: false, schema: { type: 'string' } }] : []),
      ...(ranged ? ['Range', 'If-None-Match', 'If-Range'] : name.startsWith('follow') ? ['Last-Event-ID'] : []).map(
        (at) => ({ name: at, in: 'header', required: false, schema: { type: 'string' } }),
      ),
    ];
  };

  const bodyOf = ({ body, bytes, file, example }: Operation): Json => {
    if (bytes !== undefined)
      return {
        requestBody: {
          required: true,
          description: bytes,
          content: { 'application/octet-stream': { schema: { type: 'string', format: 'binary' } } },
        },
      };
    if (!body) return {};
    const schema = schemaOf(body);
    const json = { 'application/json': { schema, example } };
    if (file === undefined) return { requestBody: { required: true, content: json } };
    const fields = {
      ...schema,
      properties: {
        ...(schema.properties as Json),
        file: { type: 'string', format: 'binary', description: file },
      },
    };
    return {
      requestBody: {
        required: true,
        description: 'A form with a file; or fields alone, with the `hash` of a file that is stored.',
        content: { 'multipart/form-data': { schema: fields }, ...json },
      },
    };
  };

  const responses = Object.fromEntries(
    Object.entries(REFUSALS).map(([status, description]) => [
      status,
      {
        description,
        headers: { 'X-Request-Id': header('The name of the request in the log.') },
        content: { 'application/problem+json': { schema: schemaOf(problemAnswer) } },
      },
    ]),
  );
  const paths: Record<string, Record<string, unknown>> = {};
  for (const operation of OPERATIONS) {
    const { path, method, name, does } = operation;
    (paths[path] ??= {})[method] = {
      operationId: name,
      summary: does,
      tags: [/^\/api\/(?:projects\/\{projectId\}\/)?(\w+)/.exec(path)?.[1] ?? 'projects'],
      parameters: parametersOf(operation),
      ...bodyOf(operation),
      responses: answersOf(operation),
      ...(path === '/api/health' ? { security: [] } : {}),
    };
  }
  return {
    openapi: '3.0.3',
    info: {
      title: 'Estela',
      version: '1',
      description:
        'Projects, their materials as Wake text, sources, meshes and sets. Writes name the version they change (`If-Match`); refusals are problems of RFC 9457.',
    },
    servers: [{ url: '/' }],
    security: [{ token: [] }, { cookie: [] }, {}],
    paths,
    components: {
      schemas,
      responses,
      securitySchemes: {
        token: { type: 'http', scheme: 'bearer', description: 'The token that the server printed at its first start.' },
        cookie: { type: 'apiKey', in: 'cookie', name: 'estela_access' },
      },
    },
  } as OpenAPIObject;
}
