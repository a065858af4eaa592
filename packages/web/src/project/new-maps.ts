import type { FlowDrawing, PathDrawing } from '@estela/core';
import type { Source } from '../api/client.ts';
import { pixels } from '../workers/pixels.ts';
import { freeName, type SourcesStore } from './sources-store.ts';

const START_PATH: PathDrawing = {
  closed: false,
  size: 512,
  points: [
    { x: 0.15, y: 0.7, width: 0.16 },
    { x: 0.4, y: 0.35, width: 0.16 },
    { x: 0.65, y: 0.6, width: 0.16 },
    { x: 0.88, y: 0.3, width: 0.16 },
  ],
};
const START_FLOW: FlowDrawing = { strokes: [], smooth: 0.03, size: 256 };

export const fileOf = (bytes: Uint8Array<ArrayBuffer>): Blob => new Blob([bytes], { type: 'image/png' });

/** Stores a path map with a first curve, to be drawn on. */
export async function newPathMap(store: SourcesStore): Promise<Source> {
  const { bytes } = await pixels('sources').path(START_PATH);
  return store.create(
    {
      name: freeName('path.png', store.getState().sources),
      file: fileOf(bytes),
      recipe: { kind: 'path', drawing: START_PATH },
    },
    'draw a path map',
  );
}

/** Stores a flow map where nothing moves yet. */
export async function newFlowMap(store: SourcesStore): Promise<Source> {
  const { bytes } = await pixels('sources').flow(START_FLOW);
  return store.create(
    {
      name: freeName('flow.png', store.getState().sources),
      file: fileOf(bytes),
      recipe: { kind: 'flow', drawing: START_FLOW },
    },
    'paint a flow map',
  );
}
