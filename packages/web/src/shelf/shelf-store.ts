import { applyEdits, parse, setTitle } from '@estela/core';
import { createStore } from 'zustand/vanilla';
import type { ProjectEvent } from '@estela/contract';
import { followed, isBehind } from '../project/followed.ts';
import { api, ApiError, sentence, type Material, type Project, type Source } from '../api/client.ts';

export interface ShelfProject {
  readonly project: Project;
  readonly materials: readonly Material[];
  readonly sources: readonly Source[];
}

export interface ShelfState {
  readonly status: 'loading' | 'ready' | 'failed';
  readonly message: string;
  readonly projects: readonly ShelfProject[];
}

/** What is on the Shelf, as the server last told it. */
export const shelf = createStore<ShelfState>(() => ({ status: 'loading', message: '', projects: [] }));

const filled = async (project: Project, signal?: AbortSignal): Promise<ShelfProject> => {
  const [materials, sources] = await Promise.all([api.materials(project.id, signal), api.sources(project.id)]);
  return { project, materials, sources };
};

export async function loadShelf(signal?: AbortSignal): Promise<void> {
  try {
    const projects = await api.projects(signal);
    shelf.setState({
      status: 'ready',
      message: '',
      projects: await Promise.all(projects.map((project) => filled(project, signal))),
    });
  } catch (error) {
    if (signal?.aborted) return;
    shelf.setState({ status: 'failed', message: sentence(error) });
  }
}

/** Reads one project anew: another may be there by now, or this one gone. All of them where they could not be read. */
async function loadProject(id: string): Promise<void> {
  if (shelf.getState().status !== 'ready') return loadShelf();
  try {
    const now = await filled(await api.project(id));
    shelf.setState(({ projects }) => ({
      projects: projects.some((p) => p.project.id === id)
        ? projects.map((p) => (p.project.id === id ? now : p))
        : [...projects, now],
    }));
  } catch (error) {
    if (error instanceof ApiError && error.status === 404)
      shelf.setState(({ projects }) => ({ projects: projects.filter((p) => p.project.id !== id) }));
    else shelf.setState({ status: 'failed', message: sentence(error) });
  }
}

/** Whether the Shelf is behind what an event tells. */
function concerns(event: ProjectEvent): boolean {
  const { kind, id, projectId } = event;
  const there = shelf.getState().projects.find((p) => p.project.id === projectId);
  if (kind !== 'project' && kind !== 'material' && kind !== 'source') return false;
  const known =
    kind === 'project'
      ? there?.project.version
      : kind === 'material'
        ? there?.materials.find((m) => m.id === id)?.revision
        : there?.sources.find((s) => s.id === id)?.version;
  return isBehind(event, known);
}

/** Keeps up with other pages and people; gives the function that ends it. */
export const followShelf = (): (() => void) =>
  followed(undefined, (events) => {
    if (events.includes(undefined)) void loadShelf();
    else for (const id of new Set(events.flatMap((e) => (e && concerns(e) ? [e.projectId] : [])))) void loadProject(id);
  });

/** Each changes something on the server, then reads the project anew; a refusal is thrown with its sentence. */
function andReload<T extends { readonly id: string } | undefined>(change: Promise<T>, project?: string): Promise<T> {
  const reloaded = async (): Promise<T> => {
    let id = project;
    try {
      const done = await change;
      id ??= done?.id;
      return done;
    } finally {
      await (id === undefined ? loadShelf() : loadProject(id));
    }
  };
  const done = reloaded();
  underWay = Promise.allSettled([underWay, done]);
  return done;
}

let underWay: Promise<unknown> = Promise.resolve();

/** A project as it is once all changes that are under way are done, such as notes that were just left. */
export async function whenWritten(project: Project): Promise<Project> {
  await underWay;
  return shelf.getState().projects.find((p) => p.project.id === project.id)?.project ?? project;
}

export const shelfActions = {
  createProject: (name: string) => andReload(api.createProject(name)),
  renameProject: (project: Project, name: string) => andReload(api.changeProject(project, { name }), project.id),
  writeNotes: (project: Project, notes: string) => andReload(api.changeProject(project, { notes }), project.id),
  deleteProject: (project: Project) => andReload(api.deleteProject(project), project.id),
  /** Starts a material from a text, under a title of its own. */
  createMaterial: (project: Project, title: string, text: string) =>
    andReload(api.createMaterial(project.id, applyEdits(text, setTitle(parse(text), title))), project.id),
  /** Starts a material from a start, whose pictures come along. */
  beginFrom: (project: Project, start: string, title: string) =>
    andReload(api.beginFrom(project.id, start, title), project.id),
  duplicateMaterial: ({ projectId, title, text }: Material) =>
    andReload(api.createMaterial(projectId, applyEdits(text, setTitle(parse(text), `${title} copy`))), projectId),
  restoreMaterial: ({ id, projectId }: Material) => andReload(api.restoreMaterial(id), projectId),
  /** The title stands in the text, so renaming edits the text. */
  renameMaterial: (material: Material, title: string) =>
    andReload(
      api.saveMaterial(
        material.id,
        applyEdits(material.text, setTitle(parse(material.text), title)),
        material.revision,
      ),
      material.projectId,
    ),
  deleteMaterial: (material: Material) => andReload(api.deleteMaterial(material), material.projectId),
};
