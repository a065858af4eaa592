import { rowsOf } from '../backends/wasm/rows.ts';
import type { Program } from '../check/program.ts';
import { blankImage, mostOf, type ImageSource, type PixelImage } from '../image/pixels.ts';
import { evaluateFrame } from '../ir/evaluate.ts';
import { compile, compileOrThrow } from '../compile.ts';
import { digestOf } from '../ir/digest.ts';
import { widthOf } from '../ir/node.ts';
import { toSrgb } from '../ops/srgb.ts';

/** How a step becomes a source, so that it can be made again. */
export interface StepRecipe {
  /** Name of the step, or `out.color` and so on; of several lines of one name the last. */
  readonly step: string;
  /** In pixels. */
  readonly width: number;
  readonly height: number;
  /** Seconds into the loop. */
  readonly time: number;
  readonly variant?: string;
  /** color: stored as sRGB; data: as it is; normal: -1..1 becomes 0..1. */
  readonly encoding: 'color' | 'data' | 'normal';
  readonly bits: 8 | 16;
}

/** Index of the step a recipe names; undefined where the material has none. */
export function stepNamed(program: Program, name: string): number | undefined {
  const channel = name.startsWith('out.') ? name.slice(4) : undefined;
  const index = program.steps.findLastIndex((s) =>
    channel === undefined ? s.kind === 'step' && s.name === name : s.kind === 'out' && s.name === channel,
  );
  return index < 0 ? undefined : index;
}

/**
 * Computes a step over the UV square as an image. Numbers become grey, a vec2 red and green; values outside 0..1 are
 * held to it; alpha is 1 unless the step has four components. Undefined where the material has no such step; throws
 * where it has errors, limits included.
 */
export function bakeStep(program: Program, recipe: StepRecipe, images: ImageSource): PixelImage | undefined {
  const index = stepNamed(program, recipe.step);
  if (index === undefined) return undefined;
  const { graph, values } = compileOrThrow(program, { variant: recipe.variant });
  const node = graph.steps[index]!;
  const { width, height, encoding, bits } = recipe;
  const evaluator = rowsOf([node], images, { width, rows: height });
  evaluator.setFrame({ time: recipe.time, dials: values.dials });
  const parts: number = widthOf(node.type);
  const result = blankImage(width, height, bits);
  const max = mostOf(result);
  const planes = Array.from({ length: parts }, (_, c) => evaluator.outputPlane(0, c));
  const stored = (value: number, alpha: boolean): number => {
    const coded = encoding === 'normal' && !alpha ? value / 2 + 0.5 : value;
    const clamped = Math.min(Math.max(coded, 0), 1);
    return Math.round((encoding === 'color' && !alpha ? toSrgb(clamped) : clamped) * max);
  };
  for (let y = 0; y < height; y++) {
    evaluator.row((y + 0.5) / height);
    for (let i = 0; i < width; i++) {
      const to = (y * width + i) * 4;
      for (let c = 0; c < 3; c++)
        result.data[to + c] =
          parts === 1 ? stored(planes[0]![i]!, false) : c < parts ? stored(planes[c]![i]!, false) : 0;
      result.data[to + 3] = parts === 4 ? stored(planes[3]![i]!, true) : max;
    }
  }
  return result;
}

/** Of what `stepSignature` gives. Signatures of other versions cannot be compared with it. */
export const SIGNATURE_VERSION = 2;

/**
 * What a baked step depends on, as a text: its graph with the values of its moment, and the contents of its images as
 * `hashOf` tells them. While it stays the same, baking again would give the same image; names, comments and other steps
 * do not count. Undefined where the material has no such step.
 */
export function stepSignature(
  program: Program,
  recipe: StepRecipe,
  hashOf: (source: string) => string,
): string | undefined {
  const index = stepNamed(program, recipe.step);
  if (index === undefined) return undefined;
  const { graph, values } = compile(program, { variant: recipe.variant });
  const root = graph.steps[index]!;
  const frame = evaluateFrame([root], { time: recipe.time, dials: values.dials });
  return digestOf(root, { frame, contentsOf: (slot) => hashOf(slot.source) });
}
