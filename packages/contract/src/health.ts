import Joi from 'joi';
import { answer, object } from './object.ts';

/** Whether the server can work. */
export interface Health {
  readonly status: 'ok' | 'failing';
  readonly database: 'up' | 'down';
  readonly queue: QueueHealth;
}

/** The queue of bakes. */
export interface QueueHealth {
  /** Threads of the server, or workers by way of Redis. */
  readonly kind: 'threads' | 'redis';
  readonly state: 'up' | 'down';
  /** Workers that are there, and their threads. */
  readonly workers: number;
  readonly jobs: number;
  /** Bakes that wait or run. */
  readonly bakes: number;
}

const count = Joi.number().integer().min(0).required();

export const healthAnswer = answer<Health>('Health', {
  status: Joi.valid('ok', 'failing'),
  database: Joi.valid('up', 'down'),
  queue: object<QueueHealth>({
    kind: Joi.valid('threads', 'redis').required(),
    state: Joi.valid('up', 'down').required(),
    workers: count,
    jobs: count,
    bakes: count,
  }),
});
