import Joi from 'joi';
import { answer } from './object.ts';

/** Why something was not done: a problem of RFC 9457. */
interface ProblemAnswer {
  /** Which kind it is; the same for the same cause. */
  readonly type: string;
  /** The kind, in a word or two. */
  readonly title: string;
  readonly status: number;
  /** A plain sentence for whoever asked. */
  readonly detail: string;
  /** What was asked for, without its query. */
  readonly instance: string;
  /** Of what was not valid: where, and why. */
  readonly errors?: readonly { readonly path: string; readonly message: string }[];
  /** Of what was changed elsewhere: its version by now. */
  readonly current?: number;
  /** Of what reads images that are not there: their names. */
  readonly missing?: readonly string[];
}

export const problemAnswer = answer<ProblemAnswer>('Problem', {
  type: Joi.string().pattern(/^\/problems\/[a-z-]+$/),
  title: Joi.string(),
  status: Joi.number().integer().min(400).max(599),
  detail: Joi.string(),
  instance: Joi.string(),
  errors: Joi.array()
    .items(Joi.object({ path: Joi.string().allow('').required(), message: Joi.string().required() }))
    .optional(),
  current: Joi.number().integer().optional(),
  missing: Joi.array().items(Joi.string()).optional(),
});
