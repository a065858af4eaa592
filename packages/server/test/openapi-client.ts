import openapiTS, { astToString, type OpenAPI3 } from 'openapi-typescript';

interface Answer {
  readonly $ref?: string;
  readonly content?: Readonly<Record<string, { readonly schema: object }>>;
}
interface Parameter {
  readonly name: string;
  readonly in: string;
  readonly required: boolean;
  readonly schema: { readonly example?: unknown };
}
/** The parts of an OpenAPI document that a client is made from. */
export interface Described {
  readonly paths: Readonly<
    Record<
      string,
      Readonly<
        Record<
          string,
          {
            readonly operationId: string;
            readonly parameters: readonly Parameter[];
            readonly requestBody?: { readonly content: Readonly<Record<string, { readonly example?: object }>> };
            readonly responses: Readonly<Record<string, Answer>>;
          }
        >
      >
    >
  >;
  readonly components: { readonly responses: Readonly<Record<string, Answer>>; readonly schemas: object };
}

/** What a value of a parameter is written as: its example, or what an answer before it told. */
function valueOf({ name, schema }: Parameter, id: string): string {
  if (name === 'If-Match') return `etagOf(${id})`;
  return schema.example === undefined
    ? `told(${JSON.stringify(name === 'materials' ? 'materialId' : name)})`
    : JSON.stringify(schema.example);
}

function callOf(
  path: string,
  method: string,
  operation: Described['paths'][string][string],
  bodies: Readonly<Record<string, string>>,
): string {
  const { operationId: name, parameters, requestBody, responses } = operation;
  const [last = ''] = /\w+(?=\}[^{]*$)/.exec(path) ?? [];
  const id = `told(${JSON.stringify(last)})`;
  const groups = ['path', 'query', 'header'].map((group) => {
    const own = parameters.filter((p) => p.in === group && p.required);
    const values = own.map((p) => `${JSON.stringify(p.name)}: ${valueOf(p, id)}`).join(', ');
    return own.length === 0 ? '' : `${group}: { ${values} }`;
  });
  const params = groups.filter((g) => g !== '').join(', ');
  const example = bodies[name] ?? JSON.stringify(requestBody?.content['application/json']?.example);
  const bytes = requestBody?.content['application/octet-stream'] !== undefined;
  const form = requestBody?.content['multipart/form-data'] !== undefined;
  const [media = ''] = Object.keys(responses['200']?.content ?? {});
  const options = [
    params === '' ? '' : `params: { ${params} }`,
    requestBody ? `body: ${bytes ? "''" : example}` : '',
    bytes ? "bodySerializer: () => new Uint8Array(), headers: { 'Content-Type': 'application/octet-stream' }" : '',
    form ? `bodySerializer: (body: object) => formOf(body, ${JSON.stringify(path)})` : '',
    media === 'text/event-stream' ? "parseAs: 'stream'" : '',
    media !== '' && !/json|event/.test(media) ? "parseAs: 'arrayBuffer'" : '',
  ].filter((o) => o !== '');
  return `await call(${JSON.stringify(name)}, client.${method.toUpperCase()}(${JSON.stringify(path)}${options.length > 0 ? `, { ${options.join(', ')} }` : ''}));`;
}

/**
 * The files of a program in TypeScript that is made from the document alone, and calls each of its operations with the
 * example it gives, or with what `bodies` has for it: those that delete at the end, the innermost first.
 */
export async function clientOf(
  described: Described,
  bodies: Readonly<Record<string, string>>,
): Promise<Readonly<Record<string, string>>> {
  const types = astToString(await openapiTS(described as unknown as OpenAPI3));
  const calls = Object.entries(described.paths).flatMap(([path, methods]) =>
    Object.entries(methods).map(([method, operation]) => ({ path, method, operation })),
  );
  const deletes = calls.filter((c) => c.method === 'delete');
  const ordered = [
    ...calls.filter((c) => c.method !== 'delete'),
    ...deletes.sort((a, b) => Number(a.path.includes('{projectId}')) - Number(b.path.includes('{projectId}'))),
  ];
  const templates = Object.keys(described.paths).filter((path) => /^[^{]*\{\w+\}$/.test(path));
  return {
    'api.d.ts': types,
    'tsconfig.json': JSON.stringify({
      compilerOptions: {
        strict: true,
        module: 'nodenext',
        target: 'es2022',
        lib: ['es2023', 'dom', 'dom.iterable'],
        types: ['node'],
        typeRoots: ['../../@types'],
        outDir: 'out',
        rootDir: '.',
        skipLibCheck: true,
      },
      files: ['client.ts', 'api.d.ts'],
    }),
    'package.json': '{ "type": "module" }',
    'client.ts': `import { readFileSync, writeFileSync } from 'node:fs';
import createClient from 'openapi-fetch';
import type { paths } from './api.d.ts';

const [, , baseUrl = '', token = ''] = process.argv;
const client = createClient<paths>({ baseUrl, headers: { authorization: 'Bearer ' + token } });
const answers: object[] = [];
const known = new Map<string, string>();
const etags = new Map<string, string>();
const templates = ${JSON.stringify(templates)};
const told = (name: string): string => {
  const value = known.get(name);
  if (value === undefined) throw new Error('no answer told ' + name);
  return value;
};
const etagOf = (id: string): string => etags.get(id) ?? '';
const formOf = (body: object, path: string): FormData => {
  const form = new FormData();
  for (const [name, value] of Object.entries(body))
    form.set(name, typeof value === 'string' ? value : JSON.stringify(value));
  form.set('file', new Blob([readFileSync(path.includes('mesh') ? 'mesh' : 'image')]), 'file');
  return form;
};
/** What is baked is there when it is done. */
const baked = async (): Promise<void> => {
  for (;;) {
    const { data } = await client.GET('/api/bakes/{bakeId}', { params: { path: { bakeId: told('bakeId') } } });
    if (data?.state === 'done') return;
    if (data?.state === 'failed') throw new Error(data.problem ?? '');
    await new Promise((done) => setTimeout(done, 50));
  }
};
const call = async (
  name: string,
  answered: Promise<{ data?: unknown; error?: unknown; response: Response }>,
): Promise<void> => {
  const { data, error, response } = await answered;
  const location = response.headers.get('location');
  for (const template of templates) {
    const [before = '', at = ''] = template.split(/[{}]/);
    const rest = location?.startsWith(before) ? location.slice(before.length) : undefined;
    if (rest !== undefined && !rest.includes('/')) known.set(at, rest);
  }
  const etag = response.headers.get('etag');
  const [id] = /[0-9a-f-]{36}$/.exec(location ?? response.url) ?? [];
  if (etag !== null && id !== undefined) etags.set(id, etag);
  if (typeof data === 'object' && data !== null && 'hash' in data) known.set('hash', String(data.hash));
  if (data instanceof ReadableStream) await data.cancel();
  const bytes = data instanceof ReadableStream || data instanceof ArrayBuffer;
  answers.push({
    name,
    status: response.status,
    type: response.headers.get('content-type') ?? '',
    id: response.headers.get('x-request-id'),
    body: bytes ? null : (data ?? error ?? null),
  });
};
${ordered.map(({ path, method, operation }) => `${callOf(path, method, operation, bodies)}${operation.operationId === 'createBake' ? '\nawait baked();' : ''}`).join('\n')}
writeFileSync('answers.json', JSON.stringify(answers));
process.exit(0);
`,
  };
}
