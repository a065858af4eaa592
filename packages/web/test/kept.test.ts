import { afterEach, beforeEach, describe, expect, it, jest } from '@jest/globals';
import fc from 'fast-check';
import { createKept } from '../src/app/kept.ts';
import { ApiError } from '../src/api/client.ts';

describe('what is kept', () => {
  beforeEach(() => {
    jest.useFakeTimers();
  });
  afterEach(() => {
    jest.useRealTimers();
  });
  const rest = async (): Promise<void> => {
    await jest.advanceTimersByTimeAsync(1000);
  };

  it('is saved once it rests, with the newest value, and undone one step at a time', async () => {
    const sent: number[] = [];
    const kept = createKept(0, (value) => Promise.resolve(sent.push(value)));
    kept.become('one', 1);
    kept.become('two', 2);
    expect([kept.getState().saving, sent]).toEqual(['waiting', []]);
    await rest();
    expect([kept.getState().saving, sent]).toEqual(['saved', [2]]);
    kept.undo();
    expect(kept.getState()).toMatchObject({ value: 1, undoes: 'one', redoes: 'two' });
    kept.redo();
    expect(kept.getState()).toMatchObject({ value: 2, undoes: 'two', redoes: undefined });
    await rest();
    // It is what was saved already.
    expect(sent).toEqual([2]);
  });

  it('does not count as saved while it is held, however it was before', async () => {
    const kept = createKept(0, () => Promise.resolve());
    const seen: string[] = [];
    const note = (): number => seen.push(kept.getState().saving);
    kept.hold(true);
    note();
    await rest();
    note();
    kept.become('one', 1);
    await rest();
    note();
    kept.hold(false);
    note();
    expect(seen).toEqual(['waiting', 'waiting', 'waiting', 'saved']);
  });

  it('joins changes of one group, and drags, into one undo each', () => {
    const kept = createKept(0, () => Promise.resolve());
    for (const value of [1, 2, 3]) kept.become('step', value, 'x');
    kept.become('step', 4, 'y');
    for (const value of [5, 6, 7]) kept.preview(value);
    expect(kept.settled()).toBe(4);
    kept.commit('drag');
    kept.preview(9);
    kept.preview(undefined);
    expect(kept.getState().value).toBe(7);
    const values = [];
    while (kept.getState().undoes !== undefined) {
      values.push(kept.getState().value);
      kept.undo();
    }
    expect([...values, kept.getState().value]).toEqual([7, 4, 3, 0]);
  });

  it('tells what was changed elsewhere and writes nothing over it until asked; tries again what failed', async () => {
    let answer: (value: number) => Promise<unknown> = () => Promise.reject(new ApiError(412, 'changed'));
    const kept = createKept(0, (value) => answer(value));
    kept.become('one', 1);
    await rest();
    expect(kept.getState()).toMatchObject({ saving: 'stale', message: 'changed', value: 1 });
    kept.become('two', 2);
    await rest();
    expect(kept.getState().saving).toBe('stale');
    answer = () => Promise.reject(new Error('no server'));
    await kept.flush();
    expect(kept.getState()).toMatchObject({ saving: 'failed', message: 'no server' });
    answer = () => Promise.resolve();
    await kept.flush();
    expect(kept.getState()).toMatchObject({ saving: 'saved', value: 2 });
  });

  it('ends as what was done last, saved, after any row of changes, drags, undos and saves that come at any time', async () => {
    const act = fc.oneof(
      fc.record({
        kind: fc.constant('become' as const),
        value: fc.integer({ min: 0, max: 4 }),
        group: fc.option(fc.constantFrom('a', 'b'), { nil: undefined }),
      }),
      fc.record({ kind: fc.constant('preview' as const), value: fc.option(fc.integer({ min: 0, max: 4 }), { nil: undefined }) }),
      fc.record({ kind: fc.constantFrom('commit' as const, 'undo' as const, 'redo' as const) }),
      fc.record({ kind: fc.constant('wait' as const), ms: fc.constantFrom(100, 500, 900) }),
    );
    await fc.assert(
      fc.asyncProperty(fc.array(act, { maxLength: 25 }), async (acts) => {
        let stored = 0;
        // The server takes its time, so that changes come while it is asked.
        const kept = createKept(0, async (value) => {
          await new Promise((done) => setTimeout(done, 300));
          stored = value;
        });
        // What it should be, told plainly: a list of values, and where in it one stands.
        let [values, at, group, dragged]: [number[], number, string | undefined, number | undefined] = [[0], 0, undefined, undefined];
        for (const a of acts) {
          switch (a.kind) {
            case 'become':
              kept.become('x', a.value, a.group);
              if (a.group === undefined || a.group !== group || at === 0) at++;
              values = [...values.slice(0, at), a.value];
              [group, dragged] = [a.group, undefined];
              break;
            case 'preview':
              kept.preview(a.value);
              dragged = a.value;
              break;
            case 'commit':
              kept.commit('x');
              if (dragged !== undefined) {
                values = [...values.slice(0, ++at), dragged];
                [group, dragged] = [undefined, undefined];
              }
              break;
            case 'wait':
              await jest.advanceTimersByTimeAsync(a.ms);
              break;
            default: {
              const to = a.kind === 'undo' ? at - 1 : at + 1;
              kept[a.kind]();
              if (dragged === undefined && to >= 0 && to < values.length) [at, group] = [to, undefined];
            }
          }
          expect(kept.getState().value).toBe(dragged ?? values[at]);
          expect(kept.settled()).toBe(values[at]);
        }
        kept.preview(undefined);
        await jest.advanceTimersByTimeAsync(3000);
        expect([kept.getState().saving, stored]).toEqual(['saved', values[at]]);
      }),
      { numRuns: 200 },
    );
  });
});
