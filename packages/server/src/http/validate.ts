import { type PipeTransform } from '@nestjs/common';
import type { Schema } from 'joi';
import { invalid } from './problem.ts';

/** Parts of a value up to which everything that is wrong with it is told, and not the first thing alone. */
const MOST_PARTS = 2000;

/** Most fields of one object: no schema here knows nearly as many. */
const MOST_FIELDS = 200;

/**
 * How many values are in a value, itself included. Throws where an object has more fields than any is asked for:
 * telling each would take long.
 */
function partsOf(value: unknown): number {
  const waiting = [value];
  let count = 0;
  for (; waiting.length > 0; count++) {
    const next = waiting.pop();
    if (typeof next !== 'object' || next === null) continue;
    const inner: unknown[] = Object.values(next);
    if (inner.length > MOST_FIELDS && !Array.isArray(next))
      throw invalid(`An object in this has ${inner.length} fields; most of them are not known here.`);
    for (const part of inner) waiting.push(part);
  }
  return count;
}

/** Lets through only what fits a Joi schema; says of everything else what is wrong with it. */
export class Validated<T> implements PipeTransform<unknown, T> {
  constructor(readonly schema: Schema<T>) {}

  transform(value: unknown): T {
    if (value === undefined)
      throw invalid('This needs a body: JSON with Content-Type application/json, or a form if it has a file.');
    const result = this.schema.validate(value, { abortEarly: partsOf(value) > MOST_PARTS, convert: true });
    if (result.error) {
      const errors = result.error.details.map((d) => ({ path: d.path.join('.'), message: d.message }));
      throw invalid(errors.map((e) => e.message).join('; '), errors);
    }
    return result.value;
  }
}
