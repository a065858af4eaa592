import type { RequestHandler } from 'express';
import { rateLimit } from 'express-rate-limit';
import { sendProblem, tooManyRequests } from './problem.ts';

/** Seconds in which requests are counted. */
const WINDOW = 10;

/** Takes so many requests of one address in ten seconds, and answers more with 429 and when to come again. */
export const limited = (most: number): RequestHandler =>
  rateLimit({
    windowMs: WINDOW * 1000,
    limit: most,
    standardHeaders: 'draft-8',
    legacyHeaders: false,
    // Behind a proxy all come from its address: who they are there is for the proxy to know.
    validate: { xForwardedForHeader: false },
    handler: (request, response) => {
      sendProblem(request, response, tooManyRequests());
    },
  });
