import { tooManyBytes, type ImageRefused } from '@estela/codecs';
import type { MeshRefused } from '@estela/codecs/mesh';
import { Catch, HttpException, type ArgumentsHost, type ExceptionFilter } from '@nestjs/common';
import type { Request, Response } from 'express';
import type { Logger } from 'pino';
// What a request is called in the log.
import type {} from 'pino-http';

/** Every refusal the API gives, with its wording: RFC 9457 problem details. */
export class Problem extends HttpException {
  constructor(
    readonly kind: string,
    status: number,
    readonly title: string,
    detail: string,
    readonly more: object = {},
  ) {
    super(detail, status);
  }
}

export const notFound = (what: string): Problem =>
  new Problem('not-found', 404, 'Not found', `There is no such ${what}; it may have been deleted.`);
export const stale = (what: string, current: number): Problem =>
  new Problem(
    'stale',
    412,
    'Changed elsewhere',
    `The ${what} was saved elsewhere since you read it. Nothing was overwritten.`,
    { current },
  );
export const matchMissing = (): Problem =>
  new Problem(
    'match-missing',
    428,
    'If-Match needed',
    'Send the ETag you last read as If-Match, so that no other change is overwritten.',
  );
export const invalid = (detail: string, errors: readonly { path: string; message: string }[] = []): Problem =>
  new Problem('invalid', 400, 'Not valid', detail, { errors });
export const nameTaken = (name: string, what: string): Problem =>
  new Problem('name-taken', 409, 'Name taken', `There is already a ${what} named "${name}" in this project.`);
export const noImage = (): Problem =>
  new Problem('invalid', 400, 'Not valid', 'Send a file, or the hash of a stored one.');
export const fileTooLarge = (): Problem =>
  new Problem('too-many-bytes', 413, 'Too large', `The file ${tooManyBytes().message}`);
export const brokenForm = (why: string): Problem =>
  new Problem(
    'invalid',
    400,
    'Not valid',
    `This form cannot be read: ${why}. Send its fields and at most one file, named "file".`,
  );
export const notExported = (title: string, why: string, missing?: readonly string[]): Problem =>
  new Problem('not-exported', 422, 'Not exported', `"${title}" cannot be exported. ${why}`, missing ? { missing } : {});
export const notBaked = (title: string, why: string): Problem =>
  new Problem('not-baked', 422, 'Not baked', `"${title}" cannot be baked with these settings. ${why}`);
export const bakeNotDone = (): Problem =>
  new Problem('not-done', 409, 'Not done', 'This bake is not finished: it has no file yet.');
export const tooLarge = (): Problem =>
  new Problem('too-large', 413, 'Too large', 'This is larger than the server accepts.');
export const wrongDigest = (): Problem =>
  new Problem('wrong-digest', 400, 'Digest mismatch', 'The bytes do not match their Content-Digest.');
export const wrongChunk = (why: string): Problem => new Problem('wrong-chunk', 422, 'Wrong chunk', why);
export const workerRefused = (why: string): Problem => new Problem('worker-refused', 409, 'Worker refused', why);
export const stillStarting = (): Problem =>
  new Problem('starting', 503, 'Starting', 'The server is still starting. Try again.');
const REFUSALS = {
  'wrong-type': [415, 'Not an image'],
  broken: [422, 'Broken image'],
  'too-many-pixels': [413, 'Too many pixels'],
  'too-many-bytes': [413, 'Too large'],
} as const;
export const imageRefused = (name: string, { code, message }: ImageRefused): Problem =>
  new Problem(code, REFUSALS[code][0], REFUSALS[code][1], `"${name}" ${message}`);

const MESH_REFUSALS = {
  'wrong-type': 415,
  broken: 422,
  'lacks-file': 422,
  'too-many-triangles': 413,
  'too-many-parts': 413,
  'too-many-bytes': 413,
} as const;
export const meshRefused = (name: string, { code, message }: Pick<MeshRefused, 'code' | 'message'>): Problem =>
  new Problem(code, MESH_REFUSALS[code], 'Mesh refused', `"${name}" ${message}`);

export const forbidden = (): Problem =>
  new Problem('forbidden', 403, 'Refused', 'Requests from this address or page are not allowed.');

export const unauthorized = (): Problem =>
  new Problem('unauthorized', 401, 'Token needed', 'Send the access token of this server as Authorization: Bearer.');
export const tooManyGuesses = (): Problem =>
  new Problem('too-many-guesses', 429, 'Wait', 'Too many wrong tokens from this address. Try again in a minute.');

export const tooManyRequests = (): Problem =>
  new Problem('too-many-requests', 429, 'Wait', 'Too many requests from this address. Try again in a few seconds.');
export const wrongMethod = (allowed: readonly string[]): Problem =>
  new Problem('wrong-method', 405, 'Method not allowed', `This address accepts ${allowed.join(', ')}.`);
export const wrongType = (types: string): Problem =>
  new Problem('wrong-type', 415, 'Unsupported type', `Send this as ${types}.`);

export const busy = (): Problem =>
  new Problem('busy', 503, 'Too many', 'Too many pages are connected. Close some and try again.');

export const noRoom = (): Problem =>
  new Problem(
    'no-room',
    507,
    'Disk full',
    'Not saved: the disk that holds the data of Estela is full or cannot be written. Free some space and save again.',
  );

/** Answers with a problem, as RFC 9457 says it. */
export function sendProblem(request: Request, response: Response, problem: Problem): void {
  response
    .status(problem.getStatus())
    .type('application/problem+json')
    .send(
      JSON.stringify({
        type: `/problems/${problem.kind}`,
        title: problem.title,
        status: problem.getStatus(),
        detail: problem.message,
        // Without its query, which may hold what is not to be shown.
        instance: request.path,
        ...problem.more,
      }),
    );
}

/** Codes of a disk that takes nothing more, from SQLite and from the system. */
const DISK = new Set(['SQLITE_FULL', 'SQLITE_IOERR', 'SQLITE_READONLY', 'ENOSPC', 'EDQUOT', 'EFBIG', 'EROFS', 'EIO']);

/** Whether an error, or what is behind it, is the disk's. */
export function isOfDisk(error: unknown): boolean {
  for (let next = error, depth = 0; next instanceof Error && depth < 5; depth++) {
    if ('code' in next && typeof next.code === 'string' && DISK.has(next.code)) return true;
    next = 'parent' in next ? next.parent : next.cause;
  }
  return false;
}

/** Turns whatever was thrown into a problem; what nobody foresaw is logged and told without detail. */
@Catch()
export class ProblemFilter implements ExceptionFilter {
  constructor(readonly log: Logger) {}

  catch(error: unknown, host: ArgumentsHost): void {
    const response = host.switchToHttp().getResponse<Response>();
    const request = host.switchToHttp().getRequest<Request>();
    if (response.headersSent) {
      response.destroy();
      return;
    }
    const problem = request.method !== 'GET' && isOfDisk(error) ? noRoom() : this.#problemOf(error);
    if (problem.getStatus() >= 500)
      this.log.error({ err: error, url: request.path, request: request.id }, 'request failed');
    sendProblem(request, response, problem);
  }

  #problemOf(error: unknown): Problem {
    if (error instanceof Problem) return error;
    if (error instanceof HttpException) return new Problem('refused', error.getStatus(), 'Refused', error.message);
    const status =
      typeof error === 'object' && error !== null && 'status' in error && typeof error.status === 'number'
        ? error.status
        : 500;
    if (status === 413) return tooLarge();
    if (status >= 400 && status < 500)
      return new Problem(
        'refused',
        status,
        'Refused',
        error instanceof Error ? error.message : 'The request cannot be read.',
      );
    return new Problem(
      'internal',
      500,
      'Server error',
      'The server failed to do this. The log has the details. Try again.',
    );
  }
}
