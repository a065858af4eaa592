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

export interface Source {
  readonly id: string;
  readonly name: string;
  readonly width: number;
  readonly height: number;
  readonly hash: string;
}

async function request<T>(path: string, options: { method?: string; body?: object; match?: number; signal?: AbortSignal } = {}): Promise<T> {
  const { method = 'GET', body, match, signal } = options;
  let response: Response;
  try {
    response = await fetch(`/api/${path}`, {
      method,
      headers: { ...(body ? { 'content-type': 'application/json' } : {}), ...(match !== undefined ? { 'if-match': `"${String(match)}"` } : {}) },
      ...(body ? { body: JSON.stringify(body) } : {}),
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
    typeof answer === 'object' && answer !== null && 'detail' in answer ? String(answer.detail) : `The server answered ${String(response.status)}.`;
  throw new ApiError(response.status, detail);
}

/** The server's API, one function a call. Versions are what the server last said, and guard each write. */
export const api = {
  projects: (signal?: AbortSignal) => request<Project[]>('projects', signal ? { signal } : {}),
  project: (id: string) => request<Project>(`projects/${id}`),
  createProject: (name: string) => request<Project>('projects', { method: 'POST', body: { name } }),
  renameProject: (project: Project, name: string) => request<Project>(`projects/${project.id}`, { method: 'PATCH', body: { name }, match: project.version }),
  deleteProject: (project: Project) => request<undefined>(`projects/${project.id}`, { method: 'DELETE', match: project.version }),
  materials: (projectId: string, signal?: AbortSignal) => request<Material[]>(`projects/${projectId}/materials`, signal ? { signal } : {}),
  material: (id: string, signal?: AbortSignal) => request<Material>(`materials/${id}`, signal ? { signal } : {}),
  createMaterial: (projectId: string, text: string) => request<Material>(`projects/${projectId}/materials`, { method: 'POST', body: { text } }),
  saveMaterial: (id: string, text: string, revision: number) => request<Material>(`materials/${id}`, { method: 'PUT', body: { text }, match: revision }),
  deleteMaterial: (material: Material) => request<undefined>(`materials/${material.id}`, { method: 'DELETE', match: material.revision }),
  sources: (projectId: string) => request<Source[]>(`projects/${projectId}/sources`),
  sourceAddress: (source: Source) => `/api/sources/${source.id}/content`,
};

/** What went wrong, as a sentence. */
export const sentence = (error: unknown): string => (error instanceof Error ? error.message : String(error));
