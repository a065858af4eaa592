import { Injectable, type CallHandler, type ExecutionContext, type NestInterceptor } from '@nestjs/common';
import type { Request, Response } from 'express';
import { map, type Observable } from 'rxjs';

/** A part of a list, and a cursor that leads on where there is more. */
export interface Page<T> {
  readonly items: readonly T[];
  readonly next: string | undefined;
}

/** Answers with the items of a page; `Link` names the next one, as RFC 8288 says it. */
@Injectable()
export class Paged<T> implements NestInterceptor<Page<T>, readonly T[]> {
  intercept(context: ExecutionContext, handler: CallHandler<Page<T>>): Observable<readonly T[]> {
    const request = context.switchToHttp().getRequest<Request>();
    const response = context.switchToHttp().getResponse<Response>();
    return handler.handle().pipe(
      map(({ items, next }) => {
        if (next !== undefined) {
          const query = new URLSearchParams(request.originalUrl.split('?')[1]);
          query.set('cursor', next);
          response.setHeader('Link', `<${request.path}?${query.toString()}>; rel="next"`);
        }
        return items;
      }),
    );
  }
}
