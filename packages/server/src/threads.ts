import { join } from 'node:path';
import { Piscina } from 'piscina';

/** Most threads of one kind. */
export const THREADS = 2;

/**
 * Threads that run a module beside the one that asks (its `import.meta`), ended after half a minute without work;
 * `megabytes` is the most of a thread's heap.
 */
export function threadsOf(
  { dirname, filename }: Pick<ImportMeta, 'dirname' | 'filename'>,
  name: string,
  { megabytes, threads = THREADS }: { readonly megabytes?: number; readonly threads?: number } = {},
): Piscina {
  // From the sources, as tests are, the module is TypeScript.
  const fromSource = filename.endsWith('.ts');
  return new Piscina({
    filename: join(dirname, `${name}.${fromSource ? 'ts' : 'js'}`),
    execArgv: fromSource ? ['--import', 'tsx'] : [],
    minThreads: 0,
    maxThreads: threads,
    idleTimeout: 30_000,
    ...(megabytes === undefined ? {} : { resourceLimits: { maxOldGenerationSizeMb: megabytes } }),
  });
}
