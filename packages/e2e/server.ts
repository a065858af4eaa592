import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { fileURLToPath } from 'node:url';

const MAIN = fileURLToPath(new URL('../server/dist/main.js', import.meta.url));

export interface Server {
  readonly address: string;
  /** Of its process. */
  readonly pid: number;
  /** Ends it, once all is written. */
  readonly end: () => Promise<void>;
}

/** Starts the built server on a data folder and waits until it listens; `main` where this file is not in its place. */
export async function startServer(
  data: string,
  port: number,
  main = MAIN,
  more: readonly string[] = [],
): Promise<Server> {
  const child = spawn(process.execPath, [main, '--port', String(port), '--data', data, ...more], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  await new Promise<void>((resolve, reject) => {
    child.stdout.on('data', (words: Buffer) => {
      if (words.toString().includes('Estela is at')) resolve();
    });
    child.on('exit', (code) => {
      reject(new Error(`The server ended with ${String(code)}.`));
    });
  });
  return {
    address: `http://127.0.0.1:${String(port)}`,
    pid: child.pid!,
    async end() {
      const over = once(child, 'exit');
      child.kill();
      await over;
    },
  };
}
