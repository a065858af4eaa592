import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { sentence, type Recipe, type Source } from '../api/client.ts';
import type { TextureSupply } from '../gl/textures.ts';
import type { GlPixels } from '../workers/shown.ts';
import { fileOf } from './new-maps.ts';
import type { SourcesStore } from './sources-store.ts';

export interface DrawingEditor<T> {
  /** What is shown: what is stored, or what the hand is changing right now. */
  readonly drawing: T;
  /** Shows a change while the hand is on it. */
  readonly show: (drawing: T) => void;
  /** Stores a change; each is one undo. */
  readonly keep: (drawing: T, title: string) => void;
  /** Pixels of the drawing for a Stage, under the name `preview`, and when they have changed. */
  readonly supply: TextureSupply;
  readonly version: string;
  readonly status: 'stored' | 'storing' | 'failed';
  readonly problem: string;
}

/** Holds a drawing while it is edited, draws it for the preview and stores what is kept, one after the other. */
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
  const [draft, setDraft] = useState<T>();
  const [status, setStatus] = useState<'stored' | 'storing' | 'failed'>('stored');
  const [problem, setProblem] = useState('');
  const drawing = draft ?? stored;
  const version = useMemo(() => JSON.stringify(drawing), [drawing]);
  const current = useRef({ drawing, version, ways });
  useEffect(() => {
    current.current = { drawing, version, ways };
  });
  const queue = useRef<Promise<unknown>>(Promise.resolve());
  const waiting = useRef(0);

  const supply = useMemo(
    (): TextureSupply => ({
      contentOf: (name) => (name === 'preview' ? current.current.version : current.current.ways.others?.contentOf(name)),
      load: (name, color, most) =>
        name === 'preview'
          ? current.current.ways.texture(current.current.drawing)
          : (current.current.ways.others?.load(name, color, most) ?? Promise.reject(new Error('There is no such source.'))),
    }),
    [],
  );

  const { id } = source;
  const keep = useCallback(
    (next: T, title: string): void => {
      setDraft(next);
      setStatus('storing');
      waiting.current++;
      queue.current = queue.current.then(async () => {
        try {
          const { bytes } = await current.current.ways.file(next);
          const now = store.getState().sources.find((s) => s.id === id);
          if (!now) throw new Error('This source is gone.');
          await store.change(now, { file: fileOf(bytes), recipe: current.current.ways.recipe(next) }, title);
          setProblem('');
          if (--waiting.current > 0) return;
          setStatus('stored');
          // From here on what is stored is shown, so that undo is seen.
          setDraft(undefined);
        } catch (error) {
          waiting.current--;
          setProblem(sentence(error));
          setStatus('failed');
        }
      });
    },
    [store, id],
  );
  return { drawing, show: setDraft, keep, supply, version, status, problem };
}
