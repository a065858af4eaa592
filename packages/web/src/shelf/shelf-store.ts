import { applyEdits, parse, setTitle } from '@estela/core';
import { createStore } from 'zustand/vanilla';
import { api, sentence, type Material, type Project, type Source } from '../api/client.ts';

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

export async function loadShelf(signal?: AbortSignal): Promise<void> {
  try {
    const projects = await api.projects(signal);
    const filled = await Promise.all(
      projects.map(async (project): Promise<ShelfProject> => {
        const [materials, sources] = await Promise.all([api.materials(project.id, signal), api.sources(project.id)]);
        return { project, materials, sources };
      }),
    );
    shelf.setState({ status: 'ready', message: '', projects: filled });
  } catch (error) {
    if (signal?.aborted) return;
    shelf.setState({ status: 'failed', message: sentence(error) });
  }
}

/** Each changes something on the server, then reads the Shelf anew; a refusal is thrown with its sentence. */
function andReload<T>(change: Promise<T>): Promise<T> {
  const reloaded = async (): Promise<T> => {
    try {
      return await change;
    } finally {
      await loadShelf();
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
  renameProject: (project: Project, name: string) => andReload(api.changeProject(project, { name })),
  writeNotes: (project: Project, notes: string) => andReload(api.changeProject(project, { notes })),
  deleteProject: (project: Project) => andReload(api.deleteProject(project)),
  /** Starts a material from a text, under a title of its own. */
  createMaterial: (project: Project, title: string, text: string) =>
    andReload(api.createMaterial(project.id, applyEdits(text, setTitle(parse(text), title)))),
  duplicateMaterial: ({ projectId, title, text }: Material) =>
    andReload(api.createMaterial(projectId, applyEdits(text, setTitle(parse(text), `${title} copy`)))),
  restoreMaterial: ({ id }: Material) => andReload(api.restoreMaterial(id)),
  /** The title stands in the text, so renaming edits the text. */
  renameMaterial: (material: Material, title: string) =>
    andReload(
      api.saveMaterial(
        material.id,
        applyEdits(material.text, setTitle(parse(material.text), title)),
        material.revision,
      ),
    ),
  deleteMaterial: (material: Material) => andReload(api.deleteMaterial(material)),
};
