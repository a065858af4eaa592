import { createContext, useContext } from 'react';
import type { Material, Project, Source } from '../api/client.ts';
import { createClock, type Clock } from './clock-store.ts';
import { createDocumentStore, type DocumentStore } from './document-store.ts';
import { draftOf } from './drafts.ts';
import { createSaver, type Saver } from './saving.ts';

/** One material open on the Bench: its document, its saving and its time. */
export interface Session {
  readonly material: Material;
  readonly project: Project;
  readonly sources: readonly Source[];
  readonly document: DocumentStore;
  readonly saver: Saver;
  readonly clock: Clock;
  /** Text that was typed but never saved was found in this browser and is in the document now. */
  readonly restored: boolean;
}

export function openSession(material: Material, project: Project, sources: readonly Source[]): Session {
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
    restored,
  };
}

export const SessionContext = createContext<Session | undefined>(undefined);

export function useSession(): Session {
  const session = useContext(SessionContext);
  if (!session) throw new Error('This part belongs on the Bench.');
  return session;
}
