import Joi from 'joi';
import { answer, contentHash, moment, object, oneLine, uuid } from './object.ts';

export const WORKER_STATES = ['idle', 'busy', 'lost'] as const;
export type WorkerState = (typeof WORKER_STATES)[number];

/** Who computes bakes: the server itself, or a machine that has come to help. */
export interface BakeWorker {
  readonly id: string;
  readonly name: string;
  /** Threads that it computes in. */
  readonly jobs: number;
  readonly state: WorkerState;
  /** Frames a second over the last half minute; null before there is one. */
  readonly rate: number | null;
  /** Chunks that were kept of it. */
  readonly chunks: number;
  readonly at: readonly WorkerTask[];
  /** When it last gave a sign. */
  readonly seenAt: string;
}

/** Chunks of a bake that a worker has in hand. */
export interface WorkerTask {
  readonly bakeId: string;
  readonly projectId: string;
  /** Of the material. */
  readonly title: string;
  readonly chunks: number;
}

/** A chunk of a bake, by the number of its first band. */
export interface ChunkPlace {
  readonly bakeId: string;
  readonly first: number;
}

/** What a worker says of itself, at first and every few seconds. */
export interface WorkerHello {
  readonly name: string;
  readonly jobs: number;
  /** Of what Estela it was built: SHA-256 of the sources. */
  readonly build: string;
  /** SHA-256 of what it makes of a small bake that every worker must make alike. */
  readonly trial: string;
  /** What time it has. */
  readonly clock: Date;
  /** What it has in hand. */
  readonly at: readonly ChunkPlace[];
}

/** What a worker is told when it is taken on. */
export interface WorkerWelcome {
  /** Where chunks come from; null where the server computes all bakes itself. */
  readonly queue: string | null;
}

/** Whether a chunk is, or was, still to be computed. */
export interface ChunkAnswer {
  readonly wanted: boolean;
}

/** Why a chunk cannot be computed. */
export interface ChunkFailure {
  readonly problem: string;
}

export const bandNumber = Joi.number().integer().min(0).max(1e9).required().label('first');
const place = object<ChunkPlace>({ bakeId: uuid.required(), first: bandNumber });

export const workerHello = object<WorkerHello>({
  name: oneLine.required(),
  jobs: Joi.number().integer().min(1).max(1024).required().label('jobs'),
  build: Joi.string()
    .pattern(/^\w{1,64}$/)
    .required()
    .label('build'),
  trial: contentHash.required().label('trial'),
  clock: Joi.date().iso().required().label('clock'),
  at: Joi.array().items(place).max(2000).required().label('at'),
});

export const chunkFailure = object<ChunkFailure>({ problem: Joi.string().max(2000).required().label('problem') });

export const welcomeAnswer = answer<WorkerWelcome>('WorkerWelcome', { queue: Joi.string().allow(null) });
export const chunkAnswer = answer<ChunkAnswer>('ChunkAnswer', { wanted: Joi.boolean() });
export const workerAnswer = answer<BakeWorker>('BakeWorker', {
  id: uuid,
  name: Joi.string(),
  jobs: Joi.number().integer().min(1),
  state: Joi.valid(...WORKER_STATES),
  rate: Joi.number().min(0).allow(null),
  chunks: Joi.number().integer().min(0),
  at: Joi.array().items(
    object<WorkerTask>({
      bakeId: uuid.required(),
      projectId: uuid.required(),
      title: Joi.string().required(),
      chunks: Joi.number().integer().min(1).required(),
    }),
  ),
  seenAt: moment,
});
