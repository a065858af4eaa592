import { type PipeTransform } from '@nestjs/common';
import type { Schema } from 'joi';
import { invalid } from './problem.ts';

/** Lets through only what fits a Joi schema; says of everything else what is wrong with it. */
export class Validated<T> implements PipeTransform<unknown, T> {
  constructor(readonly schema: Schema<T>) {}

  transform(value: unknown): T {
    const result = this.schema.validate(value, { abortEarly: false, convert: true });
    if (result.error) {
      const errors = result.error.details.map((d) => ({ path: d.path.join('.'), message: d.message }));
      throw invalid(errors.map((e) => e.message).join('; '), errors);
    }
    return result.value;
  }
}
