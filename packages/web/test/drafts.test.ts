import { afterEach, beforeEach, describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { dropDraft, findDrafts, keepDrafts, type DraftKeeper } from '../src/history/drafts.ts';
import { memory, recall } from '../src/ui/memory.ts';

/** What a browser keeps, with room for so many characters; denied storage throws as soon as it is asked for. */
function browser({ room = Infinity, denied = false } = {}): Map<string, string> {
  const kept = new Map<string, string>();
  const storage = {
    get length() {
      return kept.size;
    },
    key: (i: number) => [...kept.keys()][i] ?? null,
    getItem: (key: string) => kept.get(key) ?? null,
    setItem(key: string, value: string) {
      if (value.length > room) throw new DOMException('full', 'QuotaExceededError');
      kept.set(key, value);
    },
    removeItem: (key: string) => kept.delete(key),
  };
  Object.defineProperty(globalThis, 'localStorage', {
    configurable: true,
    get() {
      if (denied) throw new DOMException('denied', 'SecurityError');
      return storage;
    },
  });
  return kept;
}

const typed = (text: string, revision = 1) => ({ title: 'Drift', revision, text });
const textsOf = async (material?: string): Promise<string[]> => (await findDrafts(material)).map((d) => d.text).sort();

describe('drafts', () => {
  let open: DraftKeeper[] = [];
  beforeEach(() => {
    open = [];
    browser();
  });
  afterEach(() => {
    for (const keeper of open) keeper.close();
    Reflect.deleteProperty(globalThis, 'localStorage');
  });
  const opened = (material = 'm'): DraftKeeper => {
    const keeper = keepDrafts(material, 'p');
    open.push(keeper);
    return keeper;
  };

  it('of two tabs are two: whatever each does, the last text that a tab typed and did not save is found', async () => {
    const act = fc.record({
      tab: fc.nat(2),
      does: fc.constantFrom('type' as const, 'save' as const, 'close' as const),
      text: fc.string({ maxLength: 3 }),
    });
    await fc.assert(
      fc.asyncProperty(fc.array(act, { maxLength: 20 }), async (acts) => {
        browser();
        const tabs: { keeper: DraftKeeper | undefined; text: string | undefined }[] = [0, 1, 2].map(() => ({
          keeper: opened(),
          text: undefined,
        }));
        for (const { tab, does, text } of acts) {
          const one = tabs[tab]!;
          if (does === 'type' && one.keeper) {
            expect(one.keeper.keep(typed(text))).toBe(true);
            one.text = text;
          } else if (does === 'save' && one.keeper) {
            one.keeper.forget();
            one.text = undefined;
          } else if (does === 'close') {
            one.keeper?.close();
            one.keeper = undefined;
          }
          // A page that is still open is the only one to show its text.
          expect(await textsOf('m')).toEqual(
            tabs.flatMap((t) => (t.keeper || t.text === undefined ? [] : [t.text])).sort(),
          );
        }
        for (const { keeper } of tabs) keeper?.close();
      }),
      { numRuns: 60 },
    );
  });

  it('are found for one material or all, with what they began from, and dropped only as they were found', async () => {
    const [first, other] = [opened('m'), opened('n')];
    first.keep(typed('one', 7));
    other.keep(typed('two'));
    first.close();
    other.close();
    expect([await textsOf('m'), await textsOf()]).toEqual([['one'], ['one', 'two']]);
    const [draft] = await findDrafts('m');
    expect(draft).toMatchObject({ material: 'm', project: 'p', title: 'Drift', revision: 7, text: 'one' });
    // Its page was not gone: it typed on.
    first.keep(typed('one more', 7));
    dropDraft(draft!);
    expect(await textsOf('m')).toEqual(['one more']);
    dropDraft((await findDrafts('m'))[0]!);
    expect(await textsOf('m')).toEqual([]);
  });

  it('never throw: full or denied storage says that it keeps nothing, and what is not a draft is no draft', async () => {
    browser({ room: 200 });
    const keeper = opened();
    expect([keeper.keep(typed('short')), keeper.keep(typed('long'.repeat(100)))]).toEqual([true, false]);
    browser({ denied: true });
    expect([keeper.keep(typed('short')), memory.getItem('a'), memory.keys(), recall('a')]).toEqual([
      false,
      null,
      [],
      {},
    ]);
    keeper.forget();
    expect(await textsOf()).toEqual([]);
    const kept = browser();
    for (const [i, value] of ['', 'null', '7', '[]', '{"text":1,"revision":1}', '{"text":"x"}', '{'].entries())
      kept.set(`estela.draft.m.${String(i)}`, value);
    kept.set('estela.draft.', '{"text":"x","revision":1}');
    kept.set('estela.split', '{"text":"x","revision":1}');
    expect(await textsOf()).toEqual([]);
  });
});
