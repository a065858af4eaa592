import type { TraceLine } from '@estela/core';
import { createContext, useContext } from 'react';
import { createStore, type StoreApi } from 'zustand/vanilla';
import type { Material, Project } from '../api/client.ts';
import { dropDraft, keepDrafts, type Draft, type DraftKeeper } from '../history/drafts.ts';
import type { ProbePixel } from '../workers/probe.ts';
import type { SourcesStore } from '../project/sources-store.ts';
import { createDesk, type BakeDesk } from './bake/desk.ts';
import { createChecks, drawableOf, type ChecksStore } from './checks/checks-store.ts';
import type { Drawable } from '../viewport/use-drawn.ts';
import type { Clock } from '../material/clock-store.ts';
import { compileMaterial } from '../material/compiled-material.ts';
import { clockOfEarly } from './early-picture.ts';
import { createDocumentStore, debouncedOf, type DocumentState, type DocumentStore } from './document-store.ts';
import { createSaver, type Saver } from './saving.ts';
import type { Selection, SelectionStore } from './selection.ts';
import type { SceneState } from '../material/scene-store.ts';

/** The tabs of the panel under the Stage that are always there, in order. */
export const TABS = ['dials', 'step', 'sources', 'checks', 'probe', 'bake'] as const;

/** A tab of that panel; a ramp by its name, a dissolve by its place among those of the text. */
export type PanelTab =
  | { readonly kind: (typeof TABS)[number] }
  | { readonly kind: 'ramp'; readonly name: string }
  | { readonly kind: 'dissolve'; readonly index: number };

export interface PanelState {
  readonly open: PanelTab;
}

/** The value that is open in place: where it starts in the text, and where its control is to stand. */
export interface ValueState {
  readonly at: { readonly from: number; readonly left: number; readonly top: number } | undefined;
}

/** What covers the Bench, if anything. */
export type Cover = 'palette' | 'help' | 'revisions' | undefined;
export interface CoverState {
  readonly open: Cover;
}

/** The pixel of the surface under the pointer, while it is over the Stage, and one that is held fast for the probe. */
export interface PointerState {
  readonly pixel: ProbePixel | undefined;
  readonly pinned: ProbePixel | undefined;
}

/** What every step is worth at the probed pixel; undefined while the probe is closed. */
export interface ProbedState {
  readonly values: readonly (readonly number[])[] | undefined;
}

/** Whose values the Stage shows: a variant by name, the base without; and what stands beside it for comparing. */
export interface ShownState {
  readonly variant: string | undefined;
  readonly beside: Beside | undefined;
  /** Where the two part, as a share of the Stage's width. */
  readonly wipe: number;
  /** Dials that show the left side's value on both. */
  readonly linked: ReadonlySet<string>;
}
export type Beside =
  | { readonly kind: 'variant'; readonly name: string | undefined }
  | { readonly kind: 'revision'; readonly number: number; readonly text: string }
  /** A sheet that plays, by a text that does so; `key` tells what it was made of. */
  | {
      readonly kind: 'flipbook';
      readonly text: string;
      readonly label: string;
      readonly blended: boolean;
      readonly key: string;
    };

/** Files that were dropped on the Bench or pasted, and the step they were dropped on, by index. */
export interface IntakeState {
  readonly batch:
    { readonly id: number; readonly files: readonly File[]; readonly step: number | undefined } | undefined;
}

export interface StageState {
  /** It has drawn a picture. */
  readonly pictured: boolean;
  /**
   * Milliseconds that the graphics card takes for the material over 1920 x 1080 pixels; undefined while they are not known, null
   * where the browser does not tell.
   */
  readonly timed: number | undefined | null;
}

/** The line that the Trace draws against time, on the UV square; whether it can be taken hold of on the Stage. */
export interface TraceState {
  readonly line: TraceLine;
  readonly placing: boolean;
}

/** One material open on the Bench: its document, its saving and its time. */
export interface Session {
  readonly material: Material;
  readonly project: Project;
  readonly sources: SourcesStore;
  readonly document: DocumentStore;
  /** The document for all that stands around the text, which need not follow every key. */
  readonly debounced: StoreApi<DocumentState>;
  readonly saver: Saver;
  readonly clock: Clock;
  readonly panel: StoreApi<PanelState>;
  readonly pointer: StoreApi<PointerState>;
  readonly probed: StoreApi<ProbedState>;
  readonly shown: StoreApi<ShownState>;
  readonly selection: SelectionStore;
  readonly value: StoreApi<ValueState>;
  readonly cover: StoreApi<CoverState>;
  readonly checks: ChecksStore;
  /** The material as it stands, for those who work something out of it. */
  readonly drawable: Drawable;
  readonly desk: BakeDesk;
  readonly trace: StoreApi<TraceState>;
  readonly scene: StoreApi<SceneState>;
  readonly stage: StoreApi<StageState>;
  readonly intake: StoreApi<IntakeState>;
  /** Text that was typed but never saved was found in this browser and is in the document now. */
  readonly restored: boolean;
  /** More such texts, of other tabs: each waits to be compared or dropped. */
  readonly drafts: StoreApi<DraftsState>;
  /** Lets go of the draft: what is in it still is for the next opening to find. */
  readonly close: () => void;
}

export interface DraftsState {
  readonly others: readonly Draft[];
}

/** Opens a material with the drafts of it that were found, the newest first. */
export function openSession(
  material: Material,
  project: Project,
  sources: SourcesStore,
  found: readonly Draft[],
): Session {
  const unsaved = found.filter((d) => d.text !== material.text);
  for (const draft of found) if (!unsaved.includes(draft)) dropDraft(draft);
  const [draft, ...others] = unsaved;
  const { derived, clock, scene } = compileMaterial(material.text, clockOfEarly(material));
  const document = createDocumentStore(material.text, derived);
  // As an edit, so that undo leads back to what was saved.
  if (draft) document.edit([{ from: 0, to: material.text.length, insert: draft.text }]);
  const keeper = keepDrafts(material.id, project.id);
  const keepers: DraftKeeper = {
    ...keeper,
    forget() {
      keeper.forget();
      if (draft) dropDraft(draft);
    },
  };
  const debounced = debouncedOf(document);
  debounced.subscribe(({ derived: { program } }) => {
    clock.setLoop(program.loop.seconds, program.loop.fps);
  });
  const shown = createStore<ShownState>(() => ({
    variant: undefined,
    beside: undefined,
    wipe: 0.5,
    linked: new Set(),
  }));
  const desk = createDesk();
  return {
    material,
    project,
    sources,
    document,
    debounced,
    saver: createSaver(document, material, keepers, draft?.revision),
    clock,
    panel: createStore<PanelState>(() => ({ open: { kind: 'dials' } })),
    pointer: createStore<PointerState>(() => ({ pixel: undefined, pinned: undefined })),
    probed: createStore<ProbedState>(() => ({ values: undefined })),
    shown,
    checks: createChecks(project.id, debounced, shown, sources),
    drawable: drawableOf(debounced, shown, sources),
    scene,
    intake: createStore<IntakeState>(() => ({ batch: undefined })),
    stage: createStore<StageState>(() => ({ pictured: false, timed: undefined })),
    trace: createStore<TraceState>(() => ({ line: { from: [0.5, 0], to: [0.5, 1] }, placing: false })),
    selection: createStore<Selection>(() => ({ step: undefined, alone: undefined })),
    value: createStore<ValueState>(() => ({ at: undefined })),
    cover: createStore<CoverState>(() => ({ open: undefined })),
    desk,
    restored: draft !== undefined,
    drafts: createStore<DraftsState>(() => ({ others })),
    close() {
      keeper.close();
      desk.close();
    },
  };
}

export const SessionContext = createContext<Session | undefined>(undefined);

export function useSession(): Session {
  const session = useContext(SessionContext);
  if (!session) throw new Error('This component needs the Bench.');
  return session;
}
