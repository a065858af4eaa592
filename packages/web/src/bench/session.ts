import { createContext, useContext } from 'react';
import { createStore, type StoreApi } from 'zustand/vanilla';
import type { Material, Project } from '../api/client.ts';
import type { SourcesStore } from '../sources/sources-store.ts';
import { createClock, type Clock } from './clock-store.ts';
import { createDocumentStore, type DocumentStore } from './document-store.ts';
import { draftOf } from './drafts.ts';
import { createSaver, type Saver } from './saving.ts';
import type { SoloState, SoloStore } from './solo.ts';

/** What is open below the Score: a ramp by its name, or a dissolve by its place among those of the text. */
export interface PanelState {
  readonly open: { readonly kind: 'ramp'; readonly name: string } | { readonly kind: 'dissolve'; readonly index: number } | undefined;
}

/** The place on the UV square under the pointer, while it is over the flat Stage. */
export interface PointerState {
  readonly uv: readonly [number, number] | undefined;
}

/** One material open on the Bench: its document, its saving and its time. */
export interface Session {
  readonly material: Material;
  readonly project: Project;
  readonly sources: SourcesStore;
  readonly document: DocumentStore;
  readonly saver: Saver;
  readonly clock: Clock;
  readonly panel: StoreApi<PanelState>;
  readonly pointer: StoreApi<PointerState>;
  readonly solo: SoloStore;
  /** Text that was typed but never saved was found in this browser and is in the document now. */
  readonly restored: boolean;
}

export function openSession(material: Material, project: Project, sources: SourcesStore): Session {
  const draft = draftOf(material.id);
  const restored = draft !== undefined && draft.text !== material.text;
  const document = createDocumentStore(material.text);
  // As an edit, so that undo leads back to what was saved.
  if (restored) document.edit([{ from: 0, to: material.text.length, insert: draft.text }]);
  const { loop } = document.getState().derived.program;
  const still = matchMedia('(prefers-reduced-motion: reduce)').matches;
  return {
    material,
    project,
    sources,
    document,
    saver: createSaver(document, material, restored ? draft.revision : material.revision),
    clock: createClock(loop.seconds, loop.fps, !still),
    panel: createStore<PanelState>(() => ({ open: undefined })),
    pointer: createStore<PointerState>(() => ({ uv: undefined })),
    solo: createStore<SoloState>(() => ({ step: undefined })),
    restored,
  };
}

export const SessionContext = createContext<Session | undefined>(undefined);

export function useSession(): Session {
  const session = useContext(SessionContext);
  if (!session) throw new Error('This part belongs on the Bench.');
  return session;
}
