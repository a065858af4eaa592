import type { WorkerHello } from '@estela/contract';

/** Most milliseconds that two clocks may be apart, the way of the request included. */
const MOST_APART = 30_000;

const short = (build: string): string => build.slice(0, 8);

/** Why a worker may not help: it would compute otherwise than the server, or could not tell how old things are. */
export function refusalOf(
  { build, trial, clock, name }: WorkerHello,
  own: Pick<WorkerHello, 'build' | 'trial'>,
  now = Date.now(),
): string | undefined {
  if (build !== own.build)
    return `"${name}" runs another version of Estela (${short(build)}) than the server (${short(own.build)}). Update it to the same version.`;
  const apart = clock.getTime() - now;
  if (Math.abs(apart) > MOST_APART)
    return `The clock of "${name}" is ${String(Math.round(Math.abs(apart) / 1000))} seconds ${apart > 0 ? 'ahead of' : 'behind'} the server's. Synchronise it, for example with NTP.`;
  if (trial !== own.trial)
    return `"${name}" computes different results than the server: it has another version of Node or faulty memory. Start it with Node ${process.version}.`;
  return undefined;
}
