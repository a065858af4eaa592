import { takeEarly } from './early.ts';
import type { BakeRecipe } from '@estela/core';
import type {
  Bake,
  BakeWorker,
  Material,
  Project,
  ProjectChange,
  Recipe,
  Revision,
  SetBody,
  Source,
  Start,
  StoredMesh,
  StoredSet,
} from '@estela/contract';

export type {
  Bake,
  BakeWorker,
  Material,
  PickRecipe,
  Project,
  Recipe,
  Revision,
  SetBody,
  SetItem,
  Source,
  Start,
  StoredMesh,
  StoredSet,
} from '@estela/contract';

/** A refusal from the server, with its plain sentence. `status` 0 means that it could not be reached. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    message: string,
  ) {
    super(message);
  }
}

/** Whether there is no such thing, or its address is none. */
export const isMissing = (error: unknown): boolean =>
  error instanceof ApiError && (error.status === 404 || error.status === 400);

/** What a source is made or changed by: a file, or the hash of one that the server has. */
export interface SourceChange {
  readonly name?: string;
  readonly file?: Blob;
  readonly hash?: string;
  readonly recipe?: Recipe | null;
}

interface RequestOptions {
  readonly method?: string;
  readonly body?: object;
  readonly match?: number;
  readonly signal?: AbortSignal;
}

/** How long an answer that is no upload is waited for, in milliseconds: a line may die without a word. */
const PATIENCE = 30_000;

async function request<T>(path: string, { method = 'GET', body, match, signal }: RequestOptions = {}): Promise<T> {
  const form = body instanceof FormData;
  const ends = [...(signal ? [signal] : []), ...(form ? [] : [AbortSignal.timeout(PATIENCE)])];
  let response: Response;
  try {
    const early = method === 'GET' ? takeEarly(path) : undefined;
    if (early !== undefined) return early as T;
    response = await fetch(`/api/${path}`, {
      method,
      headers: {
        ...(body && !form ? { 'content-type': 'application/json' } : {}),
        ...(match !== undefined ? { 'if-match': `"${String(match)}"` } : {}),
      },
      ...(body ? { body: form ? body : JSON.stringify(body) } : {}),
      signal: AbortSignal.any(ends),
    });
  } catch (error) {
    if (signal?.aborted) throw error;
    throw new ApiError(0, 'The server cannot be reached.');
  }
  if (response.status === 204) return undefined as T;
  let answer: unknown;
  try {
    answer = await response.json();
  } catch (error) {
    if (signal?.aborted) throw error;
    if (response.ok) throw new ApiError(0, "The server's response was cut off.");
  }
  if (response.ok) return answer as T;
  const detail =
    typeof answer === 'object' && answer !== null && 'detail' in answer
      ? String(answer.detail)
      : `The server answered ${String(response.status)}.`;
  throw new ApiError(response.status, detail);
}

function formOf({ id, name, file, hash, recipe }: SourceChange & { readonly id?: string }): FormData {
  const form = new FormData();
  if (id !== undefined) form.set('id', id);
  if (name !== undefined) form.set('name', name);
  if (hash !== undefined) form.set('hash', hash);
  if (recipe !== undefined) form.set('recipe', JSON.stringify(recipe));
  if (file) form.set('file', file, 'file');
  return form;
}

/** The part of a set that is sent. */
export const bodyOf = ({ name, items, scene, view }: SetBody): SetBody => ({ name, items, scene, view });

/** The server's API, one function a call. Versions are what the server last said, and guard each write. */
export const api = {
  projects: (signal?: AbortSignal) => request<Project[]>('projects', signal ? { signal } : {}),
  project: (id: string) => request<Project>(`projects/${id}`),
  createProject: (name: string) => request<Project>('projects', { method: 'POST', body: { name } }),
  deleteProject: (project: Project) =>
    request<undefined>(`projects/${project.id}`, { method: 'DELETE', match: project.version }),
  materials: (projectId: string, signal?: AbortSignal) =>
    request<Material[]>(`projects/${projectId}/materials`, signal ? { signal } : {}),
  material: (id: string, signal?: AbortSignal) => request<Material>(`materials/${id}`, signal ? { signal } : {}),
  createMaterial: (projectId: string, text: string) =>
    request<Material>(`projects/${projectId}/materials`, { method: 'POST', body: { text } }),
  starts: (signal?: AbortSignal) => request<Start[]>('starts', signal ? { signal } : {}),
  /** Makes a material of a start, with its pictures. */
  beginFrom: (projectId: string, start: string, title: string) =>
    request<Material>(`projects/${projectId}/starts/${start}`, { method: 'POST', body: { title } }),
  saveMaterial: (id: string, text: string, revision: number) =>
    request<Material>(`materials/${id}`, { method: 'PUT', body: { text }, match: revision }),
  deleteMaterial: (material: Material) =>
    request<undefined>(`materials/${material.id}`, { method: 'DELETE', match: material.revision }),
  restoreMaterial: (id: string) => request<Material>(`materials/${id}/restore`, { method: 'POST' }),
  revisions: (id: string, signal?: AbortSignal) =>
    request<Revision[]>(`materials/${id}/revisions`, signal ? { signal } : {}),
  revision: (id: string, number: number) => request<Revision>(`materials/${id}/revisions/${String(number)}`),
  nameRevision: (id: string, number: number, name: string) =>
    request<Revision>(`materials/${id}/revisions/${String(number)}`, { method: 'PATCH', body: { name } }),
  changeProject: (project: Project, change: ProjectChange) =>
    request<Project>(`projects/${project.id}`, { method: 'PATCH', body: change, match: project.version }),
  sources: (projectId: string) => request<Source[]>(`projects/${projectId}/sources`),
  createSource: (projectId: string, change: SourceChange & { readonly name: string }) =>
    request<Source>(`projects/${projectId}/sources`, { method: 'POST', body: formOf(change) }),
  changeSource: (source: Source, change: SourceChange) =>
    request<Source>(`sources/${source.id}`, { method: 'PUT', body: formOf(change), match: source.version }),
  meshes: (projectId: string) => request<StoredMesh[]>(`projects/${projectId}/meshes`),
  createMesh: (
    projectId: string,
    change: { readonly name: string; readonly file?: Blob; readonly hash?: string; readonly id?: string },
  ) => request<StoredMesh>(`projects/${projectId}/meshes`, { method: 'POST', body: formOf(change) }),
  changeMesh: (mesh: StoredMesh, change: { readonly name?: string; readonly file?: Blob; readonly hash?: string }) =>
    request<StoredMesh>(`meshes/${mesh.id}`, { method: 'PUT', body: formOf(change), match: mesh.version }),
  deleteMesh: (mesh: StoredMesh) => request<undefined>(`meshes/${mesh.id}`, { method: 'DELETE', match: mesh.version }),
  sets: (projectId: string) => request<StoredSet[]>(`projects/${projectId}/sets`),
  createSet: (projectId: string, body: SetBody) =>
    request<StoredSet>(`projects/${projectId}/sets`, { method: 'POST', body: bodyOf(body) }),
  changeSet: (set: Omit<StoredSet, 'updatedAt'>) =>
    request<StoredSet>(`sets/${set.id}`, { method: 'PUT', body: bodyOf(set), match: set.version }),
  deleteSet: (set: StoredSet) => request<undefined>(`sets/${set.id}`, { method: 'DELETE', match: set.version }),
  workers: () => request<BakeWorker[]>('workers'),
  bakes: (projectId: string) => request<Bake[]>(`projects/${projectId}/bakes`),
  bake: (id: string) => request<Bake>(`bakes/${id}`),
  createBake: (materialId: string, recipe: BakeRecipe) =>
    request<Bake>(`materials/${materialId}/bakes`, { method: 'POST', body: recipe }),
  retryBake: (id: string) => request<Bake>(`bakes/${id}/retry`, { method: 'POST' }),
  /** Cancels one that runs, deletes any other. */
  deleteBake: (id: string) => request<undefined>(`bakes/${id}`, { method: 'DELETE' }),
  deleteSource: (source: Source) =>
    request<undefined>(`sources/${source.id}`, { method: 'DELETE', match: source.version }),
};

/** Where a source's bytes are; another content has another address. */
export const addressOf = ({ id, hash }: Source): string => `/api/sources/${id}/content?v=${hash.slice(0, 16)}`;

/** Where the result of a bake is, its manifest, and a small picture of its first frame. */
export const bakeAddress = ({ id }: Bake, what: 'file' | 'manifest.json' | 'picture'): string =>
  `/api/bakes/${id}/${what}`;

/** Where a picture is that starts read. */
export const startImageAddress = (name: string): string => `/api/starts/images/${name}`;

/** Where a mesh's GLB is; another content has another address. */
export const meshAddress = ({ id, hash }: StoredMesh): string => `/api/meshes/${id}/content?v=${hash.slice(0, 16)}`;

/** What went wrong, as a sentence. */
export const sentence = (error: unknown): string => (error instanceof Error ? error.message : String(error));
