import { check, compile, examine, parse, Proof, provenVerdicts } from '@estela/core';
import { additions, chain } from './materials.ts';

const median = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[values.length >> 1]!;

function timed(work: () => void): number {
  const start = performance.now();
  work();
  return performance.now() - start;
}

/** Two times taken turn by turn: the medians of both, milliseconds, and of their neighbours' ratio. */
export interface Pair {
  readonly one: number;
  readonly other: number;
  readonly ratio: number;
}

/** `turn` gives the time of one and of the other, milliseconds. */
export function paired(turns: number, turn: () => readonly [number, number]): Pair {
  turn();
  const pairs = Array.from({ length: turns }, turn);
  return {
    one: median(pairs.map(([one]) => one)),
    other: median(pairs.map(([, other]) => other)),
    ratio: median(pairs.map(([one, other]) => one / other)),
  };
}

/** Proof of loop and tiles of a material with so many steps and switches, against the same without switches. */
export function switchesTime(steps: number, switches: number): Pair {
  const [some, none] = [switches, 0].map((count) => check(parse(chain(steps, count)))) as [
    ReturnType<typeof check>,
    ReturnType<typeof check>,
  ];
  const prove = (program: typeof some): number => timed(() => provenVerdicts(new Proof(program)));
  return paired(9, () => [prove(some), prove(none)]);
}

/** Verdicts and findings of so many steps once they are read, against parsing, checking and lowering them. */
export function findingsTime(count: number, first: string): Pair {
  const text = additions(count, first);
  return paired(9, () => {
    let compiled = compile('');
    const read = timed(() => {
      compiled = compile(text);
    });
    const found = timed(() => {
      for (const { stage } of examine(compiled.program, { compiled })) if (stage === 'seen') break;
    });
    return [found, read];
  });
}
