import { afterEach, beforeEach, describe, expect, it, jest } from '@jest/globals';
import fc from 'fast-check';
import { createAutosavedHistory } from '../src/history/autosaved-history.ts';
import { ApiError } from '../src/api/client.ts';

/** A store that takes what it is sent, or says why not. */
const storing = (write: (value: number) => Promise<unknown>) => ({
  write,
  recognise: () => Promise.resolve(undefined),
});
const answered = storing(() => Promise.resolve());

/** A server that guards its one value by a version, and answers as it is told to; `now` is what is stored. */
class Server {
  now = { value: 0, version: 1 };
  mode: 'well' | 'lost' | 'away' | 'full' = 'well';
  known = 1;
  readonly storing = {
    // It takes its time, so that changes come while it is asked.
    write: async (value: number): Promise<void> => {
      await this.#time();
      if (this.mode === 'full') throw new ApiError(507, 'full');
      if (this.known !== this.now.version && value !== this.now.value) throw new ApiError(412, 'changed');
      if (value !== this.now.value) this.now = { value, version: this.now.version + 1 };
      if (this.mode === 'lost') throw new ApiError(0, 'lost');
      this.known = this.now.version;
    },
    recognise: async (sent: readonly number[]): Promise<number | undefined> => {
      await this.#time();
      const { value, version } = this.now;
      if (!sent.includes(value)) return undefined;
      this.known = version;
      return value;
    },
  };
  async #time(): Promise<void> {
    await new Promise((done) => setTimeout(done, 300));
    if (this.mode === 'away') throw new ApiError(0, 'away');
  }
}

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
    const kept = createAutosavedHistory<number>(
      0,
      storing((value) => Promise.resolve(sent.push(value))),
    );
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
    const kept = createAutosavedHistory<number>(0, answered);
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
    const kept = createAutosavedHistory<number>(0, answered);
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
    const kept = createAutosavedHistory<number>(
      0,
      storing((value) => answer(value)),
    );
    kept.become('one', 1);
    await rest();
    expect(kept.getState()).toMatchObject({ saving: 'stale', message: 'changed', value: 1 });
    kept.become('two', 2);
    await rest();
    expect(kept.getState().saving).toBe('stale');
    // Leaving the page saves over nothing unseen.
    answer = () => Promise.reject(new Error('no server'));
    await kept.flush();
    expect(kept.getState().saving).toBe('stale');
    await kept.saveOver();
    expect(kept.getState()).toMatchObject({ saving: 'failed', message: 'no server' });
    answer = () => Promise.resolve();
    await kept.flush();
    expect(kept.getState()).toMatchObject({ saving: 'saved', value: 2 });
  });

  const act = fc.oneof(
    fc.record({
      kind: fc.constant('become' as const),
      value: fc.integer({ min: 0, max: 4 }),
      group: fc.option(fc.constantFrom('a', 'b'), { nil: undefined }),
    }),
    fc.record({
      kind: fc.constant('preview' as const),
      value: fc.option(fc.integer({ min: 0, max: 4 }), { nil: undefined }),
    }),
    fc.record({ kind: fc.constantFrom('commit' as const, 'undo' as const, 'redo' as const) }),
    fc.record({ kind: fc.constant('wait' as const), ms: fc.constantFrom(100, 500, 900, 5000) }),
    fc.record({
      kind: fc.constant('server' as const),
      mode: fc.constantFrom('well' as const, 'lost' as const, 'away' as const, 'full' as const),
    }),
  );
  type Act = typeof act extends fc.Arbitrary<infer T> ? T : never;
  const become = (value: number): Act => ({ kind: 'become', value, group: undefined });
  const preview = (value: number | undefined): Act => ({ kind: 'preview', value });
  const wait = (ms: 100 | 500 | 900 | 5000): Act => ({ kind: 'wait', ms });

  it('ends as what was done last, saved, after any row of changes, drags, undos and saves that fail or lose their answers at any time', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(act, { maxLength: 25 }), async (acts) => {
        const server = new Server();
        const kept = createAutosavedHistory<number>(0, server.storing);
        // What it should be, told plainly: a list of values, and where in it one stands.
        let [values, at, group, dragged]: [number[], number, string | undefined, number | undefined] = [
          [0],
          0,
          undefined,
          undefined,
        ];
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
            case 'server':
              server.mode = a.mode;
              break;
            default: {
              const to = a.kind === 'undo' ? at - 1 : at + 1;
              kept[a.kind]();
              if (dragged === undefined && to >= 0 && to < values.length) [at, group] = [to, undefined];
            }
          }
          expect(kept.getState().value).toBe(dragged ?? values[at]);
          expect(kept.settled()).toBe(values[at]);
          // Alone, one is in nobody's way; and what is said to be saved is.
          expect(kept.getState().saving).not.toBe('stale');
          if (kept.getState().saving === 'saved') expect(server.now.value).toBe(values[at]);
        }
        server.mode = 'well';
        await jest.advanceTimersByTimeAsync(15_000);
        expect([kept.getState().saving, server.now.value]).toEqual(['saved', values[at]]);
      }),
      {
        numRuns: Number(process.env.ESTELA_RUNS ?? 200),
        examples: [
          // Dragged to the value that is being saved, and let go of again once it is: the change before the drag is
          // still to be saved.
          [[become(1), wait(900), become(2), preview(1), wait(500), preview(undefined)]],
          // A save whose answer was lost is no conflict with oneself, whatever was typed since; nor is it saved where
          // it was undone.
          [
            [
              become(1),
              { kind: 'server', mode: 'lost' },
              wait(900),
              wait(500),
              become(2),
              { kind: 'server', mode: 'well' },
            ],
          ],
          [
            [
              become(1),
              { kind: 'server', mode: 'lost' },
              wait(900),
              wait(500),
              { kind: 'undo' },
              { kind: 'server', mode: 'well' },
            ],
          ],
        ],
      },
    );
  }, 600_000);
});
