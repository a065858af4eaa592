import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { startServer } from './server.ts';

/** Where the first port is that the tests' servers listen on. */
export const PORT = Number(process.env.ESTELA_TEST_PORT ?? 4617);

/** Makes the demo once, for each worker to copy. Gives the function that clears up. */
export default async function makeDemoData(): Promise<() => Promise<void>> {
  const folder = await mkdtemp(join(tmpdir(), 'estela-e2e-'));
  process.env.ESTELA_TEST_DEMO = folder;
  await (await startServer(folder, PORT)).end();
  return () => rm(folder, { recursive: true, force: true });
}
