import Joi from 'joi';
import { object } from './object.ts';

/** Which part of a list is asked for; all of it where nothing is said. */
export interface PageQuery {
  /** Most things of one page. */
  readonly limit?: number;
  /** Where the page before ended, as its `Link` said. */
  readonly cursor?: string;
  /** Only what was made or changed at that moment or later. */
  readonly updatedSince?: Date;
}

export const pageQuery = object<PageQuery>({
  limit: Joi.number().integer().min(1).max(500).label('limit'),
  cursor: Joi.string()
    .pattern(/^[\w-]{1,800}$/)
    .label('cursor'),
  updatedSince: Joi.date().iso().label('updatedSince'),
});
