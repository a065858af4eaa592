import { Injectable, type CanActivate, type ExecutionContext } from '@nestjs/common';
import { INTERCEPTORS_METADATA } from '@nestjs/common/constants.js';
import type { Request } from 'express';
import { BYTES } from '../http/bytes.ts';
import { wrongType } from '../http/problem.ts';
import { OneFile } from './one-file.ts';

/** Refuses a body that is neither JSON nor, where a file may come along, a form; or other than bytes where those are taken. */
@Injectable()
export class BodyType implements CanActivate {
  canActivate(context: ExecutionContext): boolean {
    const request = context.switchToHttp().getRequest<Request>();
    const used = (Reflect.getMetadata(INTERCEPTORS_METADATA, context.getHandler()) ?? []) as readonly unknown[];
    const form = used.includes(OneFile);
    if (request.headers['content-length'] === '0') return true;
    const types = Reflect.getMetadata(BYTES, context.getHandler())
      ? ['application/octet-stream']
      : [...(form ? ['multipart/form-data'] : []), 'application/json'];
    // Null without a body; false where it is of another type.
    if (request.is(types) === false) throw wrongType(types.join(', or as '));
    return true;
  }
}
