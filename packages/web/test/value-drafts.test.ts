import 'fake-indexeddb/auto';
import { beforeEach, expect, it, jest } from '@jest/globals';
import { ApiError, type SetBody, type StoredSet } from '../src/api/client.ts';
import type { SetsStore } from '../src/project/sets-store.ts';

/** A page of its own, which knows of no other but by what the browser keeps. */
const page = async () => {
  jest.resetModules();
  const { openSet } = await import('../src/sets/open-set.ts');
  const drafts = await import('../src/history/value-drafts.ts');
  return { openSet, ...drafts };
};
const set = { id: 's', projectId: 'p', name: 'Vents', version: 1, items: [] } as unknown as StoredSet;
const rest = (): Promise<void> => new Promise((done) => setTimeout(done, 100));

let write: (next: StoredSet) => Promise<StoredSet>;
const store = {
  save: (next: StoredSet) => write(next),
  subscribe: () => () => undefined,
} as unknown as SetsStore;
beforeEach(() => {
  indexedDB = new IDBFactory();
  write = () => Promise.reject(new ApiError(0, 'away'));
});

it('brings back what a page was closed over, as one undo, from the version it was changed from', async () => {
  const first = await (await page()).openSet(store, set);
  expect(first.restored).toBe(false);
  first.kept.become('rename', { ...first.kept.settled(), name: 'Ducts' });
  first.kept.become('rename', { ...first.kept.settled(), name: 'Pipes' });
  while (!first.kept.getState().drafted) await rest();
  expect(first.kept.getState().drafted).toBe(true);

  const sent: [string, number][] = [];
  write = (next) => {
    sent.push([next.name, next.version]);
    return Promise.resolve({ ...next, version: next.version + 1 });
  };
  const later = { ...set, version: 4 };
  const second = await (await page()).openSet(store, later);
  expect([second.restored, second.kept.settled().name]).toEqual([true, 'Pipes']);
  await second.kept.flush();
  expect(sent).toEqual([['Pipes', 1]]);
  second.kept.undo();
  expect(second.kept.settled().name).toBe('Vents');
  await second.kept.flush();
  const { findValueDraft } = await page();
  while (await findValueDraft('set s')) await rest();

  // All is saved: nothing is left to find.
  expect((await (await page()).openSet(store, later)).restored).toBe(false);
});

it('keeps the version that a save under way leads to', async () => {
  const { openSet, findValueDraft } = await page();
  const { kept } = await openSet(store, set);
  let answer = (): void => undefined;
  write = (next) => new Promise((resolve) => (answer = () => resolve({ ...next, version: next.version + 1 })));
  kept.become('rename', { ...kept.settled(), name: 'Ducts' });
  const saving = kept.flush();
  await rest();
  kept.become('rename', { ...kept.settled(), name: 'Pipes' });
  answer();
  await saving;
  await rest();
  // The page that changes it is open: no other takes its draft.
  expect(await findValueDraft('set s')).toBeUndefined();
  expect(await (await page()).findValueDraft<SetBody>('set s')).toMatchObject({ value: { name: 'Pipes' }, version: 2 });
});

it('is the newest of several, and gone once it is dropped; nothing where the browser keeps nothing', async () => {
  const first = await page();
  const [a, b] = [first.keepValue<number>('x'), first.keepValue<number>('x')];
  await a.keep(1, 1);
  await new Promise((done) => setTimeout(done, 5));
  // Of many at once only the last is written.
  const [one, two] = [b.keep(2, 1), b.keep(3, 1)];
  expect([await one, await two]).toEqual([false, true]);
  const second = await page();
  const newest = await second.findValueDraft<number>('x');
  expect(newest?.value).toBe(3);
  await second.dropValueDraft(newest!);
  expect((await second.findValueDraft<number>('x'))?.value).toBe(1);
  await a.forget();
  expect(await second.findValueDraft('x')).toBeUndefined();

  indexedDB = undefined as unknown as IDBFactory;
  const third = await page();
  expect([await third.keepValue('x').keep(1, 1), await third.findValueDraft('x')]).toEqual([false, undefined]);
});
