import { BYTE_LIMIT } from '@estela/codecs';
import { Inject, Injectable, type CallHandler, type ExecutionContext, type NestInterceptor } from '@nestjs/common';
import type { Request, Response } from 'express';
import multer, { MulterError, type StorageEngine } from 'multer';
import { finalize, type Observable } from 'rxjs';
import { brokenForm, fileTooLarge } from '../http/problem.ts';
import { Uploads, type Upload } from './uploads.ts';

/** Most fields of a form, and most bytes of one: a recipe is the largest. */
const [FIELDS, FIELD_SIZE] = [8, 2 * 1024 * 1024];

/**
 * Takes one file, `file`, of a form into the folder of uploads, and drops it when the request ends: what is to stay is
 * kept by then.
 */
@Injectable()
export class OneFile implements NestInterceptor {
  readonly #read: (request: Request, response: Response) => Promise<void>;

  constructor(@Inject(Uploads) readonly uploads: Uploads) {
    const storage: StorageEngine = {
      _handleFile(_, { stream }, done) {
        uploads.take(stream).then((upload) => {
          done(null, upload);
        }, done);
      },
      _removeFile(_, { path }, done) {
        uploads.drop({ path }).then(() => {
          done(null);
        }, done);
      },
    };
    const middleware = multer({
      storage,
      limits: { fileSize: BYTE_LIMIT, files: 1, fields: FIELDS, fieldSize: FIELD_SIZE },
    }).single('file');
    this.#read = (request, response) =>
      new Promise((done, failed) => {
        middleware(request, response, (error?: Error | string | null) => {
          if (error === undefined || error === null) done();
          else failed(error instanceof Error ? error : new Error(error));
        });
      });
  }

  async intercept(context: ExecutionContext, next: CallHandler): Promise<Observable<unknown>> {
    const http = context.switchToHttp();
    const request = http.getRequest<Request & { file?: Upload }>();
    try {
      await this.#read(request, http.getResponse());
    } catch (error) {
      if (!(error instanceof Error)) throw error;
      if (error instanceof MulterError && error.code === 'LIMIT_FILE_SIZE') throw fileTooLarge();
      // Of the disk, and of the server, each has a code; what a form lacks has none, or one of multer's.
      if (error instanceof MulterError || !('code' in error)) throw brokenForm(error.message);
      throw error;
    }
    return next.handle().pipe(
      finalize(() => {
        if (request.file) void this.uploads.drop(request.file);
      }),
    );
  }
}
