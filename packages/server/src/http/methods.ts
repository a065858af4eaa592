import { OPERATIONS } from '@estela/contract';
import type { RequestHandler } from 'express';
import { sendProblem, wrongMethod } from './problem.ts';

/** The methods of each address of the API, as a pattern of its path. */
const METHODS = [...new Set(OPERATIONS.map((o) => o.path))].map((path) => ({
  pattern: new RegExp(`^${path.replaceAll('.', '\\.').replaceAll(/\{\w+\}/g, '[^/]+')}/?$`),
  methods: OPERATIONS.filter((o) => o.path === path).flatMap(({ method }) =>
    method === 'get' ? ['GET', 'HEAD'] : [method.toUpperCase()],
  ),
}));

/** Refuses what an address of the API is not asked for by, and says in `Allow` what it is. */
export const onlyItsMethods: RequestHandler = (request, response, next) => {
  const fitting = METHODS.filter(({ pattern }) => pattern.test(request.path));
  const allowed = fitting.flatMap(({ methods }) => methods);
  if (fitting.length === 0 || allowed.includes(request.method)) {
    next();
    return;
  }
  response.setHeader('Allow', allowed.join(', '));
  sendProblem(request, response, wrongMethod(allowed));
};
