export { bakeBody, type Bake, type BakedFile, type BakeState } from './bakes.ts';
export { contentHash, identifier } from './object.ts';
export {
  bandNumber,
  chunkFailure,
  workerHello,
  type ChunkAnswer,
  type ChunkFailure,
  type ChunkPlace,
  type BakeWorker,
  type WorkerHello,
  type WorkerWelcome,
} from './workers.ts';
export { changedProject, newProject, type Project, type ProjectBody, type ProjectChange } from './projects.ts';
export {
  materialBody,
  revisionBody,
  revisionNumber,
  type Material,
  type MaterialBody,
  type Revision,
  type RevisionBody,
} from './materials.ts';
export { changedSource, newSource, type PickRecipe, type Recipe, type Source, type SourceBody } from './sources.ts';
export { changedMesh, newMesh, type MeshBody, type NewMesh, type StoredMesh } from './meshes.ts';
export { setBody, type SetBody, type SetItem, type StoredSet } from './sets.ts';
export type { PageData } from './page.ts';
export {
  exportQuery,
  exportsQuery,
  materialGlbQuery,
  setGlbQuery,
  type ExportQuery,
  type ExportsQuery,
  type MaterialGlbQuery,
  type SetGlbQuery,
} from './exports.ts';
export { startBody, startImageName, startName, type Start, type StartBody } from './starts.ts';
export type { Health } from './health.ts';
export type { ProjectEvent } from './events.ts';
export { pageQuery, type PageQuery } from './pages.ts';
export type { Operation } from './operation.ts';
export { OPERATIONS, PARAMETERS } from './operations.ts';
export { problemAnswer } from './problems.ts';
