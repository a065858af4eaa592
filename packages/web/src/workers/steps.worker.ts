/// <reference lib="webworker" />
import { expose, transfer } from 'comlink';
import type { PictureRef } from './pixel-cache.ts';
import { StepPictures, type StepFrame } from './step-pictures.ts';

const pictures = new StepPictures();

/** Pictures of a material's steps. They have a worker of their own, so that nothing else ever holds them up. */
const work = {
  async draw(
    text: string,
    steps: readonly number[],
    time: number,
    sources: ReadonlyMap<string, PictureRef>,
  ): Promise<StepFrame | undefined> {
    const frame = await pictures.draw(text, steps, time, sources);
    return frame && transfer(frame, [frame.data.buffer]);
  },
};
export type StepWork = typeof work;

expose(work);
