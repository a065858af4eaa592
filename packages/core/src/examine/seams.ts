import { WasmEvaluator } from '../backends/wasm/run.ts';
import type { ImageDeclaration } from '../check/program.ts';
import { say } from '../diagnostics/wording.ts';
import type { PixelImage } from '../image/pixels.ts';
import { inOrder, type Node } from '../ir/node.ts';
import { measureSeams, SEAM_SEEN, type SeamMeasure } from '../measure/seams.ts';
import { reached } from '../prove/blame.ts';
import { findingAt, lastStage, type Check, type Examined, type Finding } from './finding.ts';
import { samples, wordFix } from './images.ts';

/** An axis of an image: 0 from left to right, 1 from top to bottom. */
type Axis = 0 | 1;

/** Coordinates are looked at on so many points a side, at so many moments of the loop. */
const SIZE = 32;
const MOMENTS = 8;

/** A change across the edge that is smaller is not seen, however still the image is inside; of 0..1. */
const LEAST_CHANGE = 0.012;

/** Seams of images that were measured before. */
const known = new WeakMap<PixelImage, SeamMeasure>();
function seamsOf(image: PixelImage): SeamMeasure {
  let seams = known.get(image);
  if (!seams) known.set(image, (seams = measureSeams(image)));
  return seams;
}

/** The axes along which an image visibly does not meet itself, with how much more it changes there than inside. */
function visibleSeams(image: PixelImage): { readonly axis: Axis; readonly ratio: number }[] {
  const { u, v } = seamsOf(image);
  return [u, v].flatMap(({ ratio, usual }, axis) =>
    ratio >= SEAM_SEEN && ratio * usual >= LEAST_CHANGE ? [{ axis: axis as Axis, ratio }] : [],
  );
}

/** Whether an edge of the image lies between two neighbouring coordinates. */
function crosses(a: number, b: number): boolean {
  if (!Number.isFinite(a) || !Number.isFinite(b)) return false;
  if (Math.abs(a - b) < 0.5) return Math.floor(a) !== Math.floor(b);
  // A jump from one end to the other: the coordinate itself starts over there.
  const [low, high] = [a - Math.floor(a), b - Math.floor(b)].sort((x, y) => x - y) as [number, number];
  return low < 0.2 && high > 0.8;
}

type Crossing = 'never' | 'still' | 'moving';

/** Where the edges of an image lie in the picture, by root and axis, and whether they move. */
function crossings(
  { proof, program, images }: Examined,
  roots: readonly Node[],
): (axis: Axis, root: number) => Crossing {
  const evaluator = new WasmEvaluator(roots, images);
  const seen = roots.map(() => [new Set<string>(), new Set<string>()] as const);
  for (let moment = 0; moment < MOMENTS; moment++) {
    evaluator.setFrame({ time: (program.loop.seconds * moment) / MOMENTS, dials: proof.values.dials });
    evaluator.picture(SIZE, SIZE).forEach((plane, root) => {
      for (const axis of [0, 1] as const) {
        const at = (x: number, y: number): number => plane[(y * SIZE + x) * 2 + axis]!;
        const places: number[] = [];
        for (let y = 0; y < SIZE - 1; y++)
          for (let x = 0; x < SIZE - 1; x++)
            if (crosses(at(x, y), at(x + 1, y)) || crosses(at(x, y), at(x, y + 1))) places.push(y * SIZE + x);
        seen[root]![axis].add(places.join(' '));
      }
    });
  }
  return (axis, root) => {
    const places = seen[root]![axis];
    if (places.size > 1) return 'moving';
    return places.has('') ? 'never' : 'still';
  };
}

/** Coordinates at which an image is read. */
const coordinatesOf = ({ proof: { graph } }: Examined, image: ImageDeclaration): Node[] =>
  inOrder([...graph.outputs.values()]).flatMap((n) =>
    n.kind === 'sample' && n.payload.name === image.name && n.args[0] ? [n.args[0]] : [],
  );

/** Images that repeat, visibly do not meet themselves, and whose edges come into the picture. */
export const imageSeams: Check = (examined) => {
  const { program, images, proof } = examined;
  const reads = samples(examined);
  const findings: Finding[] = [];
  for (const image of program.images) {
    const of = reads.filter((r) => r.image === image);
    const pixels = image.wrap === 'repeat' && of.length > 0 ? images?.(image) : undefined;
    const open = pixels ? visibleSeams(pixels) : [];
    const coordinates = open.length > 0 ? coordinatesOf(examined, image) : [];
    if (coordinates.length === 0) continue;
    // The first step on the way to the reads that brings the edge in; else the one that reads.
    const from = reached(of.map((r) => program.steps[r.step]!));
    const carriers = program.steps.filter(
      (s) => from.has(s) && s.type === 'vec2' && !s.off && proof.graph.steps[s.index],
    );
    const nodes = [...coordinates, ...carriers.map((s) => proof.graph.steps[s.index]!)];
    const crossing = crossings(examined, nodes);
    const passed = open.flatMap((seam) => {
      const at = coordinates.map((_, i) => crossing(seam.axis, i)).filter((c) => c !== 'never');
      return at.length > 0 ? [{ ...seam, moves: at.includes('moving') }] : [];
    });
    const [first] = passed;
    const read = of[0]!;
    if (!first) continue;
    const carrier = carriers.find((_, i) => crossing(first.axis, coordinates.length + i) !== 'never');
    const step = carrier ?? program.steps[read.step]!;
    findings.push(
      findingAt(
        say.imageSeam(
          image.source,
          passed,
          step.name,
          passed.some((p) => p.moves),
        ),
        lastStage(program.tree.text, read.typed),
        wordFix(examined, image, 'mirror', ['repeat', 'mirror', 'clamp'], 'Mirror'),
        {
          lens: 'step',
          step: read.step,
          tileable: {
            source: image.source,
            image: image.name,
            axes: passed.length === 2 ? 'both' : first.axis === 0 ? 'u' : 'v',
          },
        },
      ),
    );
  }
  return findings;
};
