import { wrap, type Remote } from 'comlink';
import type { MeshWork } from './mesh.worker.ts';

let running: Remote<MeshWork> | undefined;

/** The worker that reads and writes mesh files. */
export const meshFiles = (): Remote<MeshWork> =>
  (running ??= wrap<MeshWork>(new Worker(new URL('./mesh.worker.ts', import.meta.url), { type: 'module', name: 'mesh files' })));
