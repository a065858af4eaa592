import { isIP } from 'node:net';
import { parseArgs } from 'node:util';

export interface ServerOptions {
  readonly port: number;
  readonly data: string;
  readonly host: string;
  /** Names it answers to, besides those of this machine. */
  readonly allowHosts: readonly string[];
  /** What who comes in must know; one is made where it is needed and not given. */
  readonly token: string | undefined;
  /** Most requests of one address in ten seconds; what suits a team where it is not given. */
  readonly requests: number | undefined;
  /** Threads that bake; as many as there are cores where it is not given. */
  readonly jobs: number | undefined;
  /** Address of the Redis by way of which workers bake; threads of the server do where it is not given. */
  readonly redis: string | undefined;
  /** Paths of certificate and key in PEM, for https. */
  readonly tls: { readonly cert: string; readonly key: string } | undefined;
}

/** Names and addresses that only this machine can mean. */
export const LOOPBACK: readonly string[] = ['127.0.0.1', 'localhost', '[::1]', '::1'];

/** Whether others than this machine can reach the server, so that they must show a token. */
export const isOpen = ({ host, allowHosts }: Pick<ServerOptions, 'host' | 'allowHosts'>): boolean =>
  allowHosts.length > 0 || !(LOOPBACK.includes(host) || (isIP(host) === 4 && host.startsWith('127.')));

const SHORTEST_TOKEN = 16;

/**
 * What the server is started with, from flags, else from ESTELA_PORT, ESTELA_DATA, ESTELA_HOST, ESTELA_ALLOW_HOST (names
 * with commas between), ESTELA_TOKEN and ESTELA_REDIS. Throws an Error with a plain sentence.
 */
export function readOptions(
  args: readonly string[],
  environment: Readonly<Record<string, string | undefined>>,
): ServerOptions {
  const { values } = parseArgs({
    args: [...args],
    options: {
      port: { type: 'string' },
      data: { type: 'string' },
      host: { type: 'string' },
      'allow-host': { type: 'string', multiple: true },
      token: { type: 'string' },
      'tls-cert': { type: 'string' },
      'tls-key': { type: 'string' },
      requests: { type: 'string' },
      jobs: { type: 'string' },
      redis: { type: 'string' },
    },
  });
  const portText = values.port ?? environment.ESTELA_PORT ?? '4600';
  const port = Number(portText);
  if (!Number.isInteger(port) || port < 1 || port > 65535)
    throw new Error(`The port must be a whole number from 1 to 65535, not '${portText}'.`);
  const names = values['allow-host'] ?? environment.ESTELA_ALLOW_HOST?.split(',') ?? [];
  const allowHosts = names.map((name) => name.trim().toLowerCase()).filter((name) => name !== '');
  for (const name of allowHosts)
    if (!/^[a-z0-9.-]+$/.test(name))
      throw new Error(`--allow-host takes a host name without a port, such as estela.example, not '${name}'.`);
  const token = values.token ?? environment.ESTELA_TOKEN;
  if (token !== undefined && !(token.length >= SHORTEST_TOKEN && /^[\x21-\x7e]+$/.test(token)))
    throw new Error(`The token must have at least ${String(SHORTEST_TOKEN)} letters, digits or signs, without spaces.`);
  const { 'tls-cert': cert, 'tls-key': key } = values;
  if ((cert === undefined) !== (key === undefined)) throw new Error('--tls-cert and --tls-key go together.');
  const requests = wholeNumber(values.requests, '--requests takes how many one address may make in ten seconds');
  const jobs = wholeNumber(values.jobs, '--jobs takes how many threads bake');
  return {
    requests,
    jobs,
    redis:
      values.redis === undefined && !environment.ESTELA_REDIS
        ? undefined
        : redisAddress(values.redis ?? environment.ESTELA_REDIS ?? ''),
    port,
    data: values.data ?? environment.ESTELA_DATA ?? 'data',
    host: values.host ?? environment.ESTELA_HOST ?? '127.0.0.1',
    allowHosts,
    token,
    tls: cert !== undefined && key !== undefined ? { cert, key } : undefined,
  };
}

/** The address of a Redis. Throws where it is none. */
export function redisAddress(text: string): string {
  if (!URL.canParse(text) || !/^rediss?:\/\/[^/]/.test(text))
    throw new Error(`--redis takes an address such as redis://127.0.0.1:6379, not '${text}'.`);
  return text;
}

/** A number from 1 up; undefined where nothing is given. Throws with what it is for. */
export function wholeNumber(text: string | undefined, purpose: string): number | undefined {
  if (text === undefined) return undefined;
  if (!/^[1-9]\d{0,8}$/.test(text)) throw new Error(`${purpose}, not '${text}'.`);
  return Number(text);
}
