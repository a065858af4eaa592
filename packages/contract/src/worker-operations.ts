import { list, type Operation } from './operation.ts';
import { chunkAnswer, chunkFailure, welcomeAnswer, workerAnswer, workerHello } from './workers.ts';

const CHUNK = '/api/workers/{workerId}/bakes/{bakeId}/chunks/{first}';

/** What workers ask of the server, and what is told of them. */
export const WORKER_OPERATIONS: readonly Operation[] = [
  {
    name: 'listWorkers',
    method: 'get',
    path: '/api/workers',
    does: 'Lists who computes bakes, what they have in hand, and how fast they are.',
    status: 200,
    answer: list(workerAnswer),
  },
  {
    name: 'joinWorkers',
    method: 'put',
    path: '/api/workers/{workerId}',
    does: 'Takes a worker on, or tells that it is still there; refuses one that would compute otherwise.',
    body: workerHello,
    example: { name: 'alder', jobs: 8, build: 'a1', trial: '0'.repeat(64), clock: '2026-11-29T12:00:00Z', at: [] },
    status: 200,
    answer: welcomeAnswer,
    refuses: [409],
  },
  {
    name: 'beginChunk',
    method: 'post',
    path: CHUNK,
    does: 'Says whether a chunk is still to be computed, and that a worker begins it.',
    status: 200,
    answer: chunkAnswer,
    refuses: [503],
  },
  {
    name: 'handInChunk',
    method: 'put',
    path: CHUNK,
    does: 'Keeps the bands of a chunk, once, however often they come.',
    bytes: 'Its bands in order, each after its Adler-32, its length, and its length compressed, as 32 bits big-endian.',
    status: 200,
    answer: chunkAnswer,
    refuses: [422, 503],
  },
  {
    name: 'failChunk',
    method: 'post',
    path: `${CHUNK}/failure`,
    does: 'Says why a chunk cannot be computed; its bake fails with it.',
    body: chunkFailure,
    example: { problem: 'This image is broken.' },
    status: 204,
    refuses: [503],
  },
  {
    name: 'readBlob',
    method: 'get',
    path: '/api/blobs/{hash}',
    does: 'Reads bytes that are stored, by their SHA-256.',
    status: 200,
    answer: 'application/octet-stream',
    ranged: true,
  },
  {
    name: 'leaveWorkers',
    method: 'delete',
    path: '/api/workers/{workerId}',
    does: 'Tells that a worker has ended.',
    status: 204,
  },
];
