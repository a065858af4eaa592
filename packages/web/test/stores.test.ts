import { afterEach, beforeEach, describe, expect, it, jest } from '@jest/globals';
import { applyEdits, setDefault } from '@estela/core';
import fc from 'fast-check';
import type { Material } from '../src/api/client.ts';
import { SAVE_PAUSE } from '../src/history/autosave.ts';
import { createClock, frameAt } from '../src/material/clock-store.ts';
import { createDocumentStore, debouncedOf, type DocumentStore } from '../src/bench/document-store.ts';
import { derive } from '../src/material/look.ts';
import { createSaver, spliceOf } from '../src/bench/saving.ts';

const TEXT = 'dial speed: laps = 1 in -4..4\nflow = uv |> pan(speed, heading: 0deg)\nout color = flow |> checker(2)\n';
const setSpeed = (document: DocumentStore, value: string, group?: string): void => {
  document.edit(setDefault(document.getState().derived.program.tree, 'speed', value), group);
};

describe('typing', () => {
  beforeEach(() => {
    jest.useFakeTimers();
  });
  afterEach(() => {
    jest.useRealTimers();
  });

  it('reads at once, compiles in the next task, and lets what stands around wait for a rest', () => {
    const document = createDocumentStore(TEXT);
    const debounced = debouncedOf(document);
    const at = TEXT.indexOf('(2)') + 1;
    const { look } = document.getState();
    document.edit([{ from: at, to: at + 1, insert: '3' }], 'typing');
    expect(document.getState().derived.program.tree.text).toContain('checker(3)');
    expect(document.getState().look).toBe(look);
    expect(debounced.getState().text).toBe(TEXT);
    jest.advanceTimersByTime(1);
    expect(document.getState().look.glsl.code).toBe(derive(document.getState().text).look.glsl.code);
    expect(document.getState().look.glsl.code).not.toBe(look.glsl.code);
    jest.advanceTimersByTime(500);
    expect(debounced.getState().text).toBe(document.getState().text);
    // Anything else is followed at once.
    document.undo();
    expect(debounced.getState().text).toBe(TEXT);
    expect(document.getState().look.glsl.code).toBe(look.glsl.code);
  });

  it('in comments, help and blanks leaves graph and shader as they are', () => {
    const before = derive(TEXT);
    for (const text of [
      `${TEXT}// a note\n`,
      TEXT.replace('in -4..4', 'in -4..4   "how fast"'),
      TEXT.replace('\nflow', '\n\nflow'),
      TEXT.replace('laps = 1', 'laps = 3'),
    ])
      expect([text, derive(text, before).look.graph === before.look.graph]).toEqual([text, true]);
    for (const text of [
      TEXT.replace('checker(2)', 'checker(3)'),
      TEXT.replace('out color', 'out opacity'),
      TEXT.replace('flow =', 'off flow ='),
    ])
      expect([text, derive(text, before).look.graph === before.look.graph]).toEqual([text, false]);
  });
});

describe('the document', () => {
  it('goes back and forth over any edits', () => {
    const edit = fc.tuple(
      fc.nat(200),
      fc.nat(5),
      fc.string({ maxLength: 4 }),
      fc.constantFrom(undefined, 'typing', 'drag a'),
    );
    fc.assert(
      fc.property(fc.array(edit, { maxLength: 20 }), (edits) => {
        const document = createDocumentStore(TEXT);
        for (const [at, cut, insert, group] of edits) {
          const { length } = document.getState().text;
          const from = Math.min(at, length);
          document.edit([{ from, to: Math.min(from + cut, length), insert }], group);
        }
        const last = document.getState().text;
        let steps = 0;
        while (document.undo()) steps++;
        expect(document.getState().text).toBe(TEXT);
        while (steps-- > 0) expect(document.redo()).toBe(true);
        expect(document.getState().text).toBe(last);
      }),
      { numRuns: 150 },
    );
  });

  it('makes one undo of a drag', () => {
    const document = createDocumentStore(TEXT);
    document.setDragging(true);
    for (const value of ['2', '3', '-4']) setSpeed(document, value, 'drag speed');
    document.setDragging(false);
    setSpeed(document, '4', 'drag speed');
    document.undo();
    expect(document.getState().text).toContain('laps = -4');
    document.undo();
    expect(document.getState().text).toBe(TEXT);
  });

  it('keeps the same shader while a dial moves', () => {
    const document = createDocumentStore(TEXT);
    const { glsl } = document.getState().look;
    setSpeed(document, '-3');
    // Nothing but the values is made anew.
    expect(document.getState().look.glsl).toBe(glsl);
    expect(document.getState().look.values.dials.get('speed')).toEqual([-3]);
  });

  it('derives from a dial edit what it would from the text alone', () => {
    const document = createDocumentStore(TEXT);
    setSpeed(document, '-3');
    const { text, derived } = document.getState();
    expect(derived.look.glsl.code).toBe(derive(text).look.glsl.code);
    document.edit([{ from: text.indexOf('0deg'), to: text.indexOf('0deg') + 4, insert: '90deg' }]);
    expect(document.getState().look.glsl).not.toBe(derived.look.glsl);
  });

  it('keeps the last good look while the text has errors', () => {
    const document = createDocumentStore(TEXT);
    const good = document.getState().look;
    document.edit([{ from: 0, to: 0, insert: 'x = (\n' }]);
    expect(document.getState().derived.ok).toBe(false);
    expect(document.getState().look).toBe(good);
  });
});

describe('the clock', () => {
  it('goes round, and steps whole frames from 0 to N - 1', () => {
    const clock = createClock(2, 10);
    clock.seek(1.95);
    clock.advance(0.1);
    expect(clock.getState().time).toBeCloseTo(0.05);
    clock.seek(0);
    const frames = Array.from({ length: 21 }, () => {
      const frame = frameAt(clock.getState());
      clock.step(1);
      return frame;
    });
    expect(frames).toEqual([...Array.from({ length: 20 }, (_, i) => i), 0]);
    expect(clock.getState().playing).toBe(false);
    clock.step(-2);
    expect(frameAt(clock.getState())).toBe(19);
    clock.setLoop(1, 10);
    expect(clock.getState().time).toBeLessThan(1);
  });
});

describe('saving', () => {
  const material: Material = {
    id: 'm',
    projectId: 'p',
    title: '',
    text: TEXT,
    revision: 3,
    createdAt: '',
    updatedAt: '',
  };
  const answers = (status: number, body: object) => Promise.resolve(new Response(JSON.stringify(body), { status }));
  let sent: { match: string | null; text: string }[] = [];
  let answer: () => Promise<Response>;
  let stored: { text: string; revision: number };
  let drafts: string[] = [];
  let keeps = true;

  beforeEach(() => {
    jest.useFakeTimers();
    [sent, drafts, keeps, stored] = [[], [], true, { text: 'theirs', revision: 9 }];
    answer = () => answers(200, { ...material, revision: 4 });
    globalThis.fetch = ((_: string, options: RequestInit) => {
      if (options.method === 'PUT')
        sent.push({
          match: new Headers(options.headers).get('if-match'),
          text: (JSON.parse(options.body as string) as { text: string }).text,
        });
      return options.method === 'PUT' ? answer() : answers(200, { ...material, ...stored });
    }) as typeof fetch;
  });
  afterEach(() => {
    jest.useRealTimers();
  });

  const start = () => {
    const document = createDocumentStore(TEXT);
    const saver = createSaver(document, material, {
      keep({ text }) {
        drafts = keeps ? [text] : [];
        return keeps;
      },
      forget() {
        drafts = [];
      },
      close: () => undefined,
    });
    return { document, saver, stop: saver.watch() };
  };
  const rest = () => jest.advanceTimersByTimeAsync(SAVE_PAUSE + 50);

  it('waits for a pause, sends once, and says so', async () => {
    const { document, saver } = start();
    setSpeed(document, '2');
    setSpeed(document, '3');
    expect(saver.getState().status).toBe('waiting');
    await rest();
    expect(sent).toEqual([{ match: '"3"', text: document.getState().text }]);
    expect(saver.getState()).toMatchObject({ status: 'saved', revision: 4 });
  });

  it('takes what was saved elsewhere, as one undo, and looks again once what is typed here is saved', async () => {
    const { document, saver } = start();
    await saver.look();
    expect([document.getState().text, saver.getState()]).toEqual([
      'theirs',
      expect.objectContaining({ status: 'saved', revision: 9 }),
    ]);
    await rest();
    expect(sent).toEqual([]);
    document.undo();
    expect(document.getState().text).toBe(TEXT);
    await rest();
    expect(sent).toEqual([{ match: '"9"', text: TEXT }]);
    // While something waits, nothing is taken.
    stored = { text: 'newer', revision: 12 };
    answer = () => answers(200, { ...material, revision: 11 });
    setSpeed(document, '2');
    const typed = document.getState().text;
    await saver.look();
    expect(document.getState().text).toBe(typed);
    await rest();
    await rest();
    expect([document.getState().text, saver.getState().revision]).toEqual(['newer', 12]);
  });

  it('changes of a text no more than what differs', () => {
    fc.assert(
      fc.property(fc.string(), fc.string(), fc.string(), fc.string(), (head, before, after, tail) => {
        const [from, to] = [head + before + tail, head + after + tail];
        const edits = spliceOf(from, to);
        expect(applyEdits(from, edits)).toBe(to);
        const [edit] = edits;
        expect(edit ? edit.to - edit.from : 0).toBeLessThanOrEqual(before.length);
        expect(edits.length).toBe(from === to ? 0 : 1);
      }),
    );
  });

  it('sends nothing while a hand is on a dial', async () => {
    const { document } = start();
    document.setDragging(true);
    setSpeed(document, '2', 'drag speed');
    await jest.advanceTimersByTimeAsync(20_000);
    expect(sent).toEqual([]);
    document.setDragging(false);
    await rest();
    expect(sent).toHaveLength(1);
  });

  it('keeps the typed text when another tab saved first, and lets either win', async () => {
    answer = () => answers(412, { detail: 'stale' });
    const { document, saver } = start();
    setSpeed(document, '2');
    await rest();
    expect(saver.getState().status).toBe('stale');
    setSpeed(document, '3');
    await rest();
    expect(sent).toHaveLength(1);
    answer = () => answers(200, { ...material, revision: 10 });
    await saver.saveOver();
    expect(sent.at(-1)).toMatchObject({ match: '"9"', text: document.getState().text });
    expect(saver.getState().status).toBe('saved');
    await saver.takeTheirs();
    expect(document.getState().text).toBe('theirs');
    document.undo();
    expect(document.getState().text).toContain('laps = 3');
  });

  it('tries again when the server cannot be reached', async () => {
    answer = () => Promise.reject(new TypeError('offline'));
    const { document, saver } = start();
    setSpeed(document, '2');
    await rest();
    expect(saver.getState().status).toBe('away');
    answer = () => answers(200, { ...material, revision: 4 });
    await jest.advanceTimersByTimeAsync(5000);
    expect(saver.getState().status).toBe('saved');
  });

  it('is no conflict with itself: a save whose answer was lost is recognised, and what was typed since is saved after it', async () => {
    answer = () => Promise.reject(new TypeError('the answer was lost'));
    const { document, saver } = start();
    setSpeed(document, '2');
    await rest();
    const lost = document.getState().text;
    setSpeed(document, '3');
    expect(saver.getState()).toMatchObject({ status: 'away', kept: true });
    stored = { text: lost, revision: 4 };
    answer = () =>
      sent.at(-1)?.match === '"4"' ? answers(200, { ...material, revision: 5 }) : answers(412, { detail: 'stale' });
    await jest.advanceTimersByTimeAsync(5000);
    expect(saver.getState()).toMatchObject({ status: 'saved', revision: 5, kept: false });
    expect(sent.map((s) => [s.match, s.text])).toEqual([
      ['"3"', lost],
      ['"3"', document.getState().text],
      ['"4"', document.getState().text],
    ]);
    expect(drafts).toEqual([]);
  });

  it('of a material that was deleted says so, keeps the draft, and goes on once it is restored', async () => {
    answer = () => answers(404, { detail: 'gone' });
    const { document, saver } = start();
    setSpeed(document, '2');
    await rest();
    expect(saver.getState()).toMatchObject({ status: 'failed', gone: true, kept: true });
    expect(drafts).toEqual([document.getState().text]);
    answer = () => answers(200, { ...material, revision: 10 });
    await saver.restore();
    expect([saver.getState(), sent.at(-1), drafts]).toEqual([
      expect.objectContaining({ status: 'saved', gone: false, revision: 10 }),
      { match: '"9"', text: document.getState().text },
      [],
    ]);
  });

  it('says that nothing is kept where the browser keeps nothing, and saves all the same', async () => {
    keeps = false;
    answer = () => Promise.reject(new TypeError('offline'));
    const { document, saver } = start();
    setSpeed(document, '2');
    await rest();
    expect(saver.getState()).toMatchObject({ status: 'away', kept: false });
    answer = () => answers(507, { detail: 'The disk is full.' });
    await jest.advanceTimersByTimeAsync(4000);
    expect(saver.getState()).toMatchObject({ status: 'failed', message: 'The disk is full.' });
    answer = () => answers(200, { ...material, revision: 4 });
    await jest.advanceTimersByTimeAsync(4000);
    expect(saver.getState().status).toBe('saved');
  });

  it('saves what is left when the Bench closes', async () => {
    const { document, stop } = start();
    setSpeed(document, '2');
    stop();
    await jest.advanceTimersByTimeAsync(0);
    expect(sent).toHaveLength(1);
  });
});
