import { describe, expect, it, jest } from '@jest/globals';
import fc from 'fast-check';
import { ApiError } from '../src/api/client.ts';
import { createDrawing } from '../src/sources/drawing.ts';

interface Strokes {
  readonly strokes: readonly number[];
}

describe('a drawing', () => {
  /** A store that takes or refuses each write when it is told to. */
  const setUp = () => {
    let stored: Strokes = { strokes: [] };
    const asked: { settle: (well: boolean) => void }[] = [];
    const drawing = createDrawing<Strokes>(
      stored,
      (next) =>
        new Promise<void>((done, fail) => {
          asked.push({
            settle(well) {
              if (!well) {
                fail(new Error('away'));
                return;
              }
              stored = next;
              done();
            },
          });
        }),
    );
    const rest = () => new Promise((done) => setTimeout(done));
    return {
      drawing,
      stored: () => stored.strokes,
      answer: async (well: boolean) => {
        await rest();
        asked.shift()?.settle(well);
        await rest();
      },
      paint(stroke: number) {
        const base = drawing.latest();
        drawing.show({ strokes: [...base.strokes, -1] });
        drawing.keep({ strokes: [...drawing.latest().strokes, stroke] }, 'paint a stroke');
      },
    };
  };

  it('keeps every stroke that is painted while others are being stored, and those that could not be', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.constantFrom('paint' as const, 'answer' as const, 'refuse' as const), { maxLength: 12 }),
        async (acts) => {
          const hand = setUp();
          const { drawing, stored, answer } = hand;
          let painted = 0;
          for (const act of acts) {
            if (act === 'paint') hand.paint(painted++);
            else await answer(act === 'answer');
            expect(drawing.latest().strokes).toEqual(Array.from({ length: painted }, (_, i) => i));
          }
          hand.paint(painted++);
          while (drawing.getState().status === 'saving') await answer(true);
          expect([stored(), drawing.getState()]).toEqual([
            Array.from({ length: painted }, (_, i) => i),
            { shown: undefined, kept: undefined, status: 'saved', problem: '' },
          ]);
        },
      ),
      { numRuns: 40 },
    );
  });

  it('goes on showing what the hand is changing while what was before is stored; a change given up goes back to that', async () => {
    const hand = setUp();
    const { drawing, answer } = hand;
    hand.paint(0);
    drawing.show({ strokes: [0, 9] });
    await answer(true);
    expect(drawing.getState()).toMatchObject({ shown: { strokes: [0, 9] }, kept: undefined, status: 'saved' });
    drawing.show(undefined);
    expect([drawing.getState().shown, drawing.latest()]).toEqual([undefined, { strokes: [0] }]);
    hand.paint(1);
    await answer(false);
    expect(drawing.getState()).toMatchObject({ kept: { strokes: [0, 1] }, status: 'failed', problem: 'away' });
  });

  it('is stored once the server is back', async () => {
    jest.useFakeTimers();
    const titles: string[] = [];
    let away = true;
    const drawing = createDrawing<Strokes>({ strokes: [] }, (_, title) => {
      if (away) return Promise.reject(new ApiError(0, 'The server cannot be reached.'));
      titles.push(title);
      return Promise.resolve();
    });
    drawing.keep({ strokes: [0] }, 'one');
    drawing.keep({ strokes: [0, 1] }, 'two');
    await jest.advanceTimersByTimeAsync(100);
    expect(drawing.getState()).toMatchObject({ status: 'failed', kept: { strokes: [0, 1] } });
    away = false;
    await jest.advanceTimersByTimeAsync(6000);
    expect([titles, drawing.getState().status]).toEqual([['one', 'two'], 'saved']);
    jest.useRealTimers();
  });
});
