import { useEffect, useMemo, useRef, useState } from 'react';
import { useStore } from 'zustand';
import type { Recipe, Source } from '../api/client.ts';
import type { TextureSupply } from '../gl/textures.ts';
import type { GlPixels } from '../material/shown.ts';
import { createDrawing, type Drawing, type DrawingState } from './drawing.ts';
import { fileOf } from '../project/new-maps.ts';
import type { SourcesStore } from '../project/sources-store.ts';

export interface DrawingEditor<T>
  extends Pick<Drawing<T>, 'latest' | 'show' | 'keep'>, Pick<DrawingState<T>, 'status' | 'problem'> {
  /** What is shown: what is stored, or what the hand is changing right now. */
  readonly drawing: T;
  /** Pixels of the drawing for a Stage, under the name `preview`, and when they have changed. */
  readonly supply: TextureSupply;
  readonly version: string;
}

/** Holds a drawing while it is edited, draws it for the preview and stores what is kept. */
export function useDrawing<T extends object>(
  store: SourcesStore,
  source: Source,
  stored: T,
  ways: {
    readonly texture: (drawing: T) => Promise<GlPixels>;
    readonly file: (drawing: T) => Promise<{ bytes: Uint8Array<ArrayBuffer> }>;
    readonly recipe: (drawing: T) => Recipe;
    /** Other pictures of the project that the preview reads. */
    readonly others?: TextureSupply;
  },
): DrawingEditor<T> {
  const { id } = source;
  const [editor] = useState(() =>
    createDrawing(stored, async (next: T, title) => {
      const { bytes } = await ways.file(next);
      const now = store.getState().sources.find((s) => s.id === id);
      if (!now) throw new Error('This source was deleted.');
      await store.change(now, { file: fileOf(bytes), recipe: ways.recipe(next) }, title);
    }),
  );
  useEffect(() => {
    editor.follow(stored);
  }, [editor, stored]);
  const { shown, kept, status, problem } = useStore(editor);
  const drawing = shown ?? kept ?? stored;
  const version = useMemo(() => JSON.stringify(drawing), [drawing]);
  const current = useRef({ drawing, version, ways });
  useEffect(() => {
    current.current = { drawing, version, ways };
  });
  const supply = useMemo(
    (): TextureSupply => ({
      contentOf: (name) =>
        name === 'preview' ? current.current.version : current.current.ways.others?.contentOf(name),
      load: (name, color, most) =>
        name === 'preview'
          ? current.current.ways.texture(current.current.drawing)
          : (current.current.ways.others?.load(name, color, most) ??
            Promise.reject(new Error('There is no such source.'))),
    }),
    [],
  );
  const { latest, show, keep } = editor;
  return { drawing, latest, show, keep, supply, version, status, problem };
}
