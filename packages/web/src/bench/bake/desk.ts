import { bakePlan, type BakePlan, type BakeRecipe, type Program } from '@estela/core';
import { proxy } from 'comlink';
import { createStore, type StoreApi } from 'zustand/vanilla';
import { sentence } from '../../api/client.ts';
import type { TextureSupply } from '../../gl/textures.ts';
import type { GlPixels } from '../../material/shown.ts';
import { Baking } from '../../workers/baking.ts';
import type { BakedSubject, Nearness } from '../../workers/baking.worker.ts';
import { FIRST_DRAFT, type BakeDraft } from './draft.ts';

/** Something that takes long: how far it is, what came of it, or why nothing did. */
export type Work<T> =
  | { readonly state: 'idle' }
  | { readonly state: 'running'; readonly share: number }
  | { readonly state: 'done'; readonly result: T }
  | { readonly state: 'failed'; readonly message: string };

/** The name by which the text of a flipbook reads its sheet. */
export const FLIPBOOK_SHEET = 'flipbook sheet';

/** A sheet that plays beside the material. */
export interface Flipbook {
  /** Tells it from the ones before. */
  readonly id: string;
  readonly pixels: GlPixels;
  readonly held: string;
  readonly blended: string;
  readonly frames: number;
}

export interface MeasuredNearness extends Nearness {
  /** What was measured: something else is to be measured anew. */
  readonly of: string;
}

export interface EncodedVideo {
  readonly blob: Blob;
  readonly name: string;
  readonly frames: number;
}

/** What is being prepared to be baked of one material, also while nobody looks at it. */
export interface BakeDesk {
  readonly draft: StoreApi<BakeDraft>;
  readonly nearness: StoreApi<Work<MeasuredNearness>>;
  readonly flipbook: StoreApi<Work<Flipbook>>;
  readonly video: StoreApi<Work<EncodedVideo>>;
  readonly measure: (subject: BakedSubject, of: string) => void;
  readonly play: (subject: BakedSubject, frames: number) => Promise<Flipbook | undefined>;
  readonly encode: (subject: BakedSubject, name: string, frames: number) => void;
  /** The sheet that was played last. */
  readonly played: () => Flipbook | undefined;
  /** Ends one of them, if it runs. */
  readonly stop: (what: 'nearness' | 'flipbook' | 'video') => void;
  readonly close: () => void;
}

const idle = <T>(): StoreApi<Work<T>> => createStore<Work<T>>(() => ({ state: 'idle' }));

export function createDesk(): BakeDesk {
  const nearness = idle<MeasuredNearness>();
  const flipbook = idle<Flipbook>();
  const video = idle<EncodedVideo>();
  const baking = { nearness: new Baking('nearness'), flipbook: new Baking('flipbook'), video: new Baking('video') };
  let flipbooks = 0;
  let played: Flipbook | undefined;
  /** Does some work, and keeps how far it is. */
  async function run<T>(
    store: StoreApi<Work<T>>,
    by: Baking,
    work: (worker: Parameters<Parameters<Baking['run']>[0]>[0], tell: (share: number) => void) => Promise<T>,
  ): Promise<T | undefined> {
    store.setState({ state: 'running', share: 0 }, true);
    const tell = proxy((share: number) => {
      if (store.getState().state === 'running') store.setState({ state: 'running', share }, true);
    });
    try {
      const result = await by.run((worker) => work(worker, tell));
      if (result !== undefined) store.setState({ state: 'done', result }, true);
      return result;
    } catch (error) {
      store.setState({ state: 'failed', message: sentence(error) }, true);
      return undefined;
    }
  }
  return {
    draft: createStore<BakeDraft>(() => FIRST_DRAFT),
    nearness,
    flipbook,
    video,
    measure(subject, of) {
      void run(nearness, baking.nearness, async (worker, tell) => {
        const found = await worker.nearness(subject, tell);
        if (!found) throw new Error('The material has no colour to compare.');
        return { ...found, of };
      });
    },
    play: (subject, frames) =>
      run(flipbook, baking.flipbook, async (worker, tell) => {
        const { width, height, data, held, blended } = await worker.sheet(subject, FLIPBOOK_SHEET, tell);
        return (played = {
          id: `flipbook ${String(++flipbooks)}`,
          pixels: { width, height, data },
          held,
          blended,
          frames,
        });
      }),
    encode(subject, name, frames) {
      void run(video, baking.video, async (worker, tell) => {
        const bytes = await worker.video(
          subject,
          proxy((done: number) => {
            tell(done / frames);
          }),
        );
        return { blob: new Blob([bytes], { type: 'video/webm' }), name, frames };
      });
    },
    played: () => played,
    stop(what) {
      const store = { nearness, flipbook, video }[what] as StoreApi<Work<unknown>>;
      if (store.getState().state !== 'running') return;
      baking[what].end();
      store.setState({ state: 'idle' }, true);
    },
    close() {
      for (const by of Object.values(baking)) by.close();
    },
  };
}

/** A recipe worked out for a material, or why it cannot be baked. */
export function planOf(program: Program, recipe: BakeRecipe): BakePlan | string {
  try {
    return bakePlan(program, recipe);
  } catch (error) {
    return sentence(error);
  }
}

/** What the Stage draws from: the sources of the project, and the sheet that plays. */
export const withSheet = (supply: TextureSupply, { played }: BakeDesk): TextureSupply => ({
  contentOf: (name) => (name === FLIPBOOK_SHEET ? played()?.id : supply.contentOf(name)),
  load(name, color, most) {
    const sheet = name === FLIPBOOK_SHEET ? played()?.pixels : undefined;
    if (!sheet) return supply.load(name, color, most);
    return Math.max(sheet.width, sheet.height) <= most
      ? Promise.resolve(sheet)
      : Promise.reject(new Error('This sheet is too large for the graphics card.'));
  },
});
