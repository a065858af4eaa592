import { TARGETS, type Target } from '@estela/core';
import Joi from 'joi';
import { object, uuid } from './object.ts';

/** How a material is to leave, as the query of an address. */
export interface ExportQuery {
  /** Languages with commas between; all of them without. */
  readonly target?: readonly Target[];
  readonly variant?: string;
  /** Where green of a normal points. */
  readonly normalY: 'up' | 'down';
  /** Writes it without the images that are not there; else it is refused. */
  readonly leaveOutMissing: boolean;
}

/** Several materials in one zip, a folder each. */
export interface ExportsQuery extends ExportQuery {
  /** Their ids with commas between. */
  readonly materials: readonly string[];
}

const list = (what: Joi.Schema, label: string, most: number): Joi.Schema =>
  Joi.string()
    .custom((text: string, helpers) => {
      const read = Joi.array<unknown[]>().items(what).unique().min(1).max(most).label(label);
      const result = read.validate(text.split(','));
      return result.error ? helpers.message({ custom: result.error.message }) : result.value;
    })
    .label(label);

const how = {
  target: list(Joi.valid(...TARGETS), 'target', TARGETS.length),
  variant: Joi.string().max(200).label('variant'),
  normalY: Joi.valid('up', 'down').default('up').label('normalY'),
  leaveOutMissing: Joi.boolean().default(false).label('leaveOutMissing'),
};
export const exportQuery = object<ExportQuery>(how);
export const exportsQuery = object<ExportsQuery>({ ...how, materials: list(uuid, 'materials', 100).required() });
