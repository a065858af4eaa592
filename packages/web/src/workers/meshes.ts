import type { MeshWork } from './mesh.worker.ts';
import { remotely } from './remote.ts';

/** The worker that reads and writes mesh files. */
export const { work: meshFiles } = remotely<MeshWork>(
  () => new Worker(new URL('./mesh.worker.ts', import.meta.url), { type: 'module', name: 'mesh files' }),
);
