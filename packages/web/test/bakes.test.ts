import { afterEach, describe, expect, it } from '@jest/globals';
import type { Bake } from '../src/api/client.ts';
import { bytesWords, progressWords, recipeWords, secondsWords } from '../src/project/bake-words.ts';
import { bakesOf } from '../src/project/bakes-store.ts';
import { FIRST_DRAFT, recipeOf } from '../src/bench/bake/draft.ts';

const bake = (id: string, version: number, more: Partial<Bake> = {}): Bake => ({
  id,
  projectId: 'p',
  materialId: 'm',
  title: 'Haze',
  revision: 1,
  recipe: { format: 'sheet', size: [64, 64], frames: { count: 8 } },
  signature: 's',
  state: 'running',
  done: 0,
  total: 8,
  rate: null,
  left: null,
  waits: null,
  problem: null,
  file: null,
  version,
  createdAt: `2026-01-01T00:00:0${id}.000Z`,
  startedAt: null,
  finishedAt: null,
  updatedAt: '2026-01-01T00:00:00.000Z',
  ...more,
});

describe('the bakes of a project', () => {
  const { fetch } = globalThis;
  afterEach(() => {
    globalThis.fetch = fetch;
  });

  it('keep what was told while their list was on its way, and never go back to an older state', async () => {
    /** Answers by path, in the order they are let go. */
    const waiting: { path: string; answer: (status: number, body: unknown) => void }[] = [];
    globalThis.fetch = (path) =>
      new Promise((resolve) => {
        waiting.push({
          path: path as string,
          answer: (status, body) => {
            resolve(status === 204 ? new Response(null, { status }) : Response.json(body, { status }));
          },
        });
      });
    const settled = (): Promise<unknown> => new Promise((resolve) => setTimeout(resolve, 0));
    const store = bakesOf('p');
    const ids = (): string[] => store.getState().bakes.map((b) => `${b.id} ${String(b.version)}`);

    const listed = store.load();
    const made = store.create('m', { format: 'sheet', size: [64, 64], frames: 'all' });
    const [list, create] = waiting.splice(0) as [(typeof waiting)[0], (typeof waiting)[0]];
    expect(create.path).toBe('/api/materials/m/bakes');
    create.answer(202, bake('3', 1));
    await made;
    list.answer(200, [bake('1', 4), bake('2', 1)]);
    await listed;
    // The newest first.
    expect(ids()).toEqual(['3 1', '2 1', '1 4']);

    // Two answers of one bake, the older one late.
    const first = store.retry(bake('2', 1));
    const second = store.retry(bake('2', 1));
    const [late, early] = waiting.splice(0) as [(typeof waiting)[0], (typeof waiting)[0]];
    early.answer(202, bake('2', 7));
    await second;
    late.answer(202, bake('2', 5));
    await first;
    expect(ids()).toEqual(['3 1', '2 7', '1 4']);

    // What is deleted goes, what is cancelled stays.
    const removed = store.remove(bake('1', 4));
    waiting.splice(0)[0]!.answer(204, undefined);
    await settled();
    waiting.splice(0)[0]!.answer(404, { detail: 'There is no such bake.' });
    await removed;
    expect(ids()).toEqual(['3 1', '2 7']);
  });
});

describe('a bake in words', () => {
  it('says what it is, how far, and how long it takes', () => {
    const { recipe } = bake('1', 1);
    expect(recipeWords(recipe)).toBe('Sheet, 64 x 64, 8 frames, color');
    expect(
      recipeWords({ ...recipe, frames: 'all', every: 4, pack: 'orm', bits: 16, samples: 2, variant: 'Gale' }),
    ).toBe('Sheet, 64 x 64, all frames, one of every 4, orm, 16 bit, 2 x 2 samples, variant Gale');
    expect(progressWords(bake('1', 1, { done: 2.7, rate: 4.25, left: 61.2 }))).toBe(
      '2 of 8 frames, 4.3 a second, 1 min 2 s left',
    );
    expect(progressWords(bake('1', 1, { state: 'failed', problem: 'The disk is full.' }))).toBe('The disk is full.');
    expect(progressWords(bake('1', 1, { state: 'queued' }))).toBe('waiting');
    expect([1, 59.2, 3600, 7260].map(secondsWords)).toEqual(['1 s', '1 min 0 s', '1 h 0 min', '2 h 1 min']);
    expect([900, 20 * 1024, 5.5 * 1024 ** 2, 2 * 1024 ** 3].map(bytesWords)).toEqual([
      '0.88 kB',
      '20.0 kB',
      '5.50 MB',
      '2.00 GB',
    ]);
  });
});

describe('a draft', () => {
  it('asks for what is set, and for nothing that its product does not have', () => {
    const all = { ...FIRST_DRAFT, bleed: 2, columns: 4, powerOfTwo: true, spread: true, bits: 16 as const, samples: 2 };
    expect(recipeOf(all, 'Gale')).toEqual({
      format: 'sheet',
      size: [256, 256],
      frames: { count: 32 },
      outputs: ['color'],
      columns: 4,
      powerOfTwo: true,
      bleed: 2,
      bits: 16,
      samples: 2,
      spread: true,
      variant: 'Gale',
    });
    expect(recipeOf({ ...all, product: 'sequence', taking: 'range', last: 9, channels: 'pack' }, undefined)).toEqual({
      format: 'sequence',
      size: [256, 256],
      frames: [0, 9],
      pack: FIRST_DRAFT.pack,
      bits: 16,
      samples: 2,
      spread: true,
    });
    // A video is over black, of 8 bits.
    expect(recipeOf({ ...all, product: 'webm', taking: 'all', channels: 'pack' }, undefined)).toEqual({
      format: 'sequence',
      size: [256, 256],
      frames: 'all',
      outputs: ['color'],
      premultiply: true,
      samples: 2,
    });
  });
});
