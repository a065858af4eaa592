import type { WorkerHello } from '@estela/contract';
import { why } from '../../http/wording.ts';

/** Most milliseconds that two clocks may be apart, the way of the request included. */
const MOST_APART = 30_000;

const short = (build: string): string => build.slice(0, 8);

/** Why a worker may not help: it would compute otherwise than the server, or could not tell how old things are. */
export function refusalOf(
  { build, trial, clock, name }: WorkerHello,
  own: Pick<WorkerHello, 'build' | 'trial'>,
  now = Date.now(),
): string | undefined {
  if (build !== own.build) return why.otherVersion(name, short(build), short(own.build));
  const apart = clock.getTime() - now;
  if (Math.abs(apart) > MOST_APART) return why.clockApart(name, Math.round(apart / 1000));
  if (trial !== own.trial) return why.otherResults(name, process.version);
  return undefined;
}
