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
    return `"${name}" is of another version of Estela (${short(build)}) than the server (${short(own.build)}). Start it from the same sources.`;
  const apart = clock.getTime() - now;
  if (Math.abs(apart) > MOST_APART)
    return `The clock of "${name}" is ${String(Math.round(Math.abs(apart) / 1000))} seconds ${apart > 0 ? 'ahead of' : 'behind'} the server's. Set it right, by NTP for example.`;
  if (trial !== own.trial)
    return `"${name}" computes other bytes than the server: it has another version of Node, or a broken memory. Start it with Node ${process.version}.`;
  return undefined;
}
