import { parseArgs } from 'node:util';

export interface ServerOptions {
  readonly port: number;
  readonly data: string;
  readonly host: string;
}

/**
 * Port, data directory and host from flags, else from ESTELA_PORT, ESTELA_DATA and ESTELA_HOST. Throws an Error with a
 * plain sentence.
 */
export function readOptions(
  args: readonly string[],
  environment: Readonly<Record<string, string | undefined>>,
): ServerOptions {
  const { values } = parseArgs({
    args: [...args],
    options: { port: { type: 'string' }, data: { type: 'string' }, host: { type: 'string' } },
  });
  const portText = values.port ?? environment.ESTELA_PORT ?? '4600';
  const port = Number(portText);
  if (!Number.isInteger(port) || port < 1 || port > 65535)
    throw new Error(`The port must be a whole number from 1 to 65535, not '${portText}'.`);
  return {
    port,
    data: values.data ?? environment.ESTELA_DATA ?? 'data',
    host: values.host ?? environment.ESTELA_HOST ?? '127.0.0.1',
  };
}
