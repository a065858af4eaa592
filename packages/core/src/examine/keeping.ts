import { WasmEvaluator } from '../backends/wasm/run.ts';
import { check } from '../check/check.ts';
import type { Program } from '../check/program.ts';
import type { TextEdit } from '../diagnostics/diagnostic.ts';
import type { ImageSource } from '../image/pixels.ts';
import { compile } from '../compile.ts';
import { applyEdits } from '../edits/edits.ts';
import { parse } from '../lang/parse.ts';
import { CLOSED_WITHIN } from '../measure/witness.ts';

const SIZE = 48;

function picturesOf(
  program: Program,
  variant: string | undefined,
  time: number,
  images: ImageSource | undefined,
): Map<string, Float32Array> {
  const { values, graph } = compile(program, { variant });
  const { outputs } = graph;
  const evaluator = new WasmEvaluator([...outputs.values()], images);
  evaluator.setFrame({ time, dials: values.dials });
  const planes = evaluator.picture(SIZE, SIZE);
  return new Map([...outputs.keys()].map((name, i) => [name, planes[i]!]));
}

/** Edits that only touch do not disturb each other; two at one place do. */
const overlap = (a: readonly TextEdit[], b: readonly TextEdit[]): boolean =>
  a.some((x) =>
    b.some(
      (y) =>
        (x.from < y.to && y.from < x.to) ||
        (x.from === y.from && (x.to === y.to || x.from === x.to || y.from === y.to)),
    ),
  );

/**
 * Of several sets of edits those that together leave every output's picture at a moment as it is, within 1/512: an edit
 * that would change it, or touch what another has changed, is left out. Gives their places in the list.
 */
export function keepingTheLook(
  program: Program,
  all: readonly (readonly TextEdit[])[],
  time: number,
  variant?: string,
  images?: ImageSource,
): number[] {
  const { text } = program.tree;
  const before = picturesOf(program, variant, time, images);
  const kept: number[] = [];
  let edits: TextEdit[] = [];
  all.forEach((more, i) => {
    if (more.length === 0 || overlap(edits, more)) return;
    const after = check(parse(applyEdits(text, [...edits, ...more])));
    if (!after.ok) return;
    const pictures = picturesOf(after, variant, time, images);
    const same = [...before].every(([name, plane]) => {
      const other = pictures.get(name);
      return other?.length === plane.length && plane.every((v, p) => Math.abs(v - other[p]!) <= CLOSED_WITHIN);
    });
    if (!same || pictures.size !== before.size) return;
    kept.push(i);
    edits = [...edits, ...more];
  });
  return kept;
}
