import { check, compile, examine, parse, Proof, provenVerdicts } from '@estela/core';
import { additions, chain } from './materials.ts';
import { once, paired, type Pair } from './timing.ts';

/** Proof of loop and tiles of a material with so many steps and switches, against the same without switches. */
export function switchesTime(steps: number, switches: number): Pair {
  const [some, none] = [switches, 0].map((count) => check(parse(chain(steps, count)))) as [
    ReturnType<typeof check>,
    ReturnType<typeof check>,
  ];
  const prove = (program: typeof some): number => once(() => provenVerdicts(new Proof(program)));
  return paired(9, () => [prove(some), prove(none)]);
}

/** Verdicts and findings of so many steps once they are read, against parsing, checking and lowering them. */
export function findingsTime(count: number, first: string): Pair {
  const text = additions(count, first);
  return paired(9, () => {
    let compiled = compile('');
    const read = once(() => {
      compiled = compile(text);
    });
    const found = once(() => {
      for (const { stage } of examine(compiled.program, { compiled })) if (stage === 'seen') break;
    });
    return [found, read];
  });
}
