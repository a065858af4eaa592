import type { FlowDrawing, PathDrawing, Placing, StepRecipe } from '@estela/core';

/** A refusal from the server, with its plain sentence. `status` 0 means that it could not be reached. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    message: string,
  ) {
    super(message);
  }
}

export interface Project {
  readonly id: string;
  readonly name: string;
  readonly notes: string;
  readonly version: number;
  readonly materials: number;
}

export interface Material {
  readonly id: string;
  readonly projectId: string;
  readonly title: string;
  readonly text: string;
  readonly revision: number;
  readonly updatedAt: string;
}

/** Where one channel of a packed source came from. */
export interface PickRecipe {
  readonly source?: string;
  readonly channel: 0 | 1 | 2 | 3;
  readonly invert: boolean;
  readonly constant: number;
}

/** How a source was made, so that it can be edited or made again. */
export type Recipe =
  | { readonly kind: 'path'; readonly drawing: PathDrawing }
  | { readonly kind: 'flow'; readonly drawing: FlowDrawing }
  | {
      readonly kind: 'step';
      readonly materialId: string;
      readonly signature: string;
      /** Of the signature; 1 where it is not told. */
      readonly version?: number;
      readonly bake: StepRecipe;
    }
  | {
      readonly kind: 'pack';
      readonly width: number;
      readonly height: number;
      readonly bits: 8 | 16;
      readonly picks: readonly PickRecipe[];
    }
  | {
      readonly kind: 'tile';
      readonly from: string;
      readonly way: 'blend' | 'patch';
      readonly band: number;
      readonly keepContrast?: boolean;
    }
  | { readonly kind: 'channel'; readonly from: string; readonly channel: 0 | 1 | 2 | 3 }
  | { readonly kind: 'sheet'; readonly from: string; readonly columns: number; readonly rows: number };

export interface Source {
  readonly id: string;
  readonly projectId: string;
  readonly name: string;
  readonly mime: string;
  readonly width: number;
  readonly height: number;
  /** Bits a channel. */
  readonly bits: 8 | 16;
  /** Of the file, in bytes. */
  readonly size: number;
  readonly hash: string;
  readonly recipe: Recipe | null;
  readonly version: number;
}

/** A mesh of a project; its GLB is at `meshAddress`. */
export interface StoredMesh {
  readonly id: string;
  readonly projectId: string;
  readonly name: string;
  readonly hash: string;
  /** Of its GLB, in bytes. */
  readonly size: number;
  readonly triangles: number;
  readonly version: number;
}

/** One mesh on a set, with its copies. */
export interface SetItem extends Placing {
  readonly id: string;
  /** A shape by its name, or a mesh of the project by its id. */
  readonly mesh: string;
  /** Quads across a shape; null for what suits it. */
  readonly subdivisions: number | null;
  readonly material: string | null;
  /** null for the base. */
  readonly variant: string | null;
  /** Seconds that a whole turn about its upright takes; 0 for none, below 0 the other way. */
  readonly turning: number;
  /** Seconds that each copy is behind the one before it. */
  readonly delay: number;
  /** Lies over the whole view, in front of everything. */
  readonly film: boolean;
}

/** Meshes placed together on a Stage. */
export interface SetBody {
  readonly name: string;
  readonly items: readonly SetItem[];
  readonly scene: { readonly environment: string; readonly backdrop: string; readonly exposure: number };
  readonly view: { readonly from: readonly number[]; readonly at: readonly number[] } | null;
}
export interface StoredSet extends SetBody {
  readonly id: string;
  readonly projectId: string;
  readonly version: number;
}

/** A kept text of a material; the list leaves the text out. */
export interface Revision {
  readonly number: number;
  readonly name: string;
  readonly createdAt: string;
  readonly text?: string;
}

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

async function request<T>(path: string, { method = 'GET', body, match, signal }: RequestOptions = {}): Promise<T> {
  const form = body instanceof FormData;
  let response: Response;
  try {
    response = await fetch(`/api/${path}`, {
      method,
      headers: {
        ...(body && !form ? { 'content-type': 'application/json' } : {}),
        ...(match !== undefined ? { 'if-match': `"${String(match)}"` } : {}),
      },
      ...(body ? { body: form ? body : JSON.stringify(body) } : {}),
      ...(signal ? { signal } : {}),
    });
  } catch (error) {
    if (signal?.aborted) throw error;
    throw new ApiError(0, 'The server cannot be reached.');
  }
  if (response.status === 204) return undefined as T;
  const answer: unknown = await response.json().catch(() => undefined);
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
  changeProject: (project: Project, change: { readonly name?: string; readonly notes?: string }) =>
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
  changeSet: (set: StoredSet) =>
    request<StoredSet>(`sets/${set.id}`, { method: 'PUT', body: bodyOf(set), match: set.version }),
  deleteSet: (set: StoredSet) => request<undefined>(`sets/${set.id}`, { method: 'DELETE', match: set.version }),
  deleteSource: (source: Source) =>
    request<undefined>(`sources/${source.id}`, { method: 'DELETE', match: source.version }),
};

/** Where a source's bytes are; another content has another address. */
export const addressOf = ({ id, hash }: Source): string => `/api/sources/${id}/content?v=${hash.slice(0, 16)}`;

/** Where a mesh's GLB is; another content has another address. */
export const meshAddress = ({ id, hash }: StoredMesh): string => `/api/meshes/${id}/content?v=${hash.slice(0, 16)}`;

/** What went wrong, as a sentence. */
export const sentence = (error: unknown): string => (error instanceof Error ? error.message : String(error));
