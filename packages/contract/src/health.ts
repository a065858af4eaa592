import Joi from 'joi';
import { answer } from './object.ts';

/** Whether the server can work. */
export interface Health {
  readonly status: 'ok' | 'failing';
  readonly database: 'up' | 'down';
}

export const healthAnswer = answer<Health>('Health', {
  status: Joi.valid('ok', 'failing'),
  database: Joi.valid('up', 'down'),
});
