import type { ImageDeclaration, Typed } from '../check/program.ts';
import type { Fix } from '../diagnostics/diagnostic.ts';
import { say } from '../diagnostics/wording.ts';
import { appearanceOf, likelyEncoding, NORMAL_SHARE, NOT_NORMAL_SHARE } from '../image/encoding.ts';
import { findingAt, type Check, type Examined, type Finding } from './finding.ts';

type Sample = Extract<Typed, { kind: 'call' }>;

/** Calls of live steps that read an image, with it. */
export function samples({ expressions, live }: Examined): { typed: Sample; image: ImageDeclaration; step: number }[] {
  return expressions.flatMap(({ typed, step }) => {
    const image = typed.kind === 'call' && !typed.off ? typed.args.get('image') : undefined;
    return typed.kind === 'call' && image?.kind === 'image' && step && !step.off && live.has(step)
      ? [{ typed, image: image.image, step: step.index }]
      : [];
  });
}

/** Writes another word of an image's line, in place of one that says the same thing or behind the others. */
export function wordFix(
  { program }: Examined,
  image: ImageDeclaration,
  word: string,
  group: readonly string[],
  title: string,
): Fix[] {
  const line = program.tree.statements.find((s) => s.kind === 'image' && s.name.name === image.name);
  if (line?.kind !== 'image') return [];
  const old = line.words.find((w) => group.includes(w.name));
  return [
    {
      title,
      edits: [old ? { from: old.from, to: old.to, insert: word } : { from: line.to, to: line.to, insert: ` ${word}` }],
    },
  ];
}

const ENCODINGS = ['color', 'data', 'normal'];

const isPowerOfTwo = (n: number): boolean => (n & (n - 1)) === 0;

/** Images read as what they are not, and repeating images that old devices cannot repeat. */
export const imageReadings: Check = (examined) => {
  const { program, images } = examined;
  const reads = samples(examined);
  const findings: Finding[] = [];
  for (const image of program.images) {
    const pixels = reads.some((r) => r.image === image) ? images?.(image) : undefined;
    if (!pixels) continue;
    const { normal, colourful } = appearanceOf(pixels);
    if (normal > NORMAL_SHARE && image.encoding !== 'normal')
      findings.push(
        findingAt(
          say.normalAsOther(image.source, image.encoding),
          image.span,
          wordFix(examined, image, 'normal', ENCODINGS, 'Read it as normal'),
        ),
      );
    else if (image.encoding === 'normal' && normal < NOT_NORMAL_SHARE) {
      const likely = likelyEncoding(pixels, image.source);
      findings.push(
        findingAt(
          say.otherAsNormal(image.source, likely === 'data'),
          image.span,
          wordFix(examined, image, likely, ENCODINGS, `Read it as ${likely}`),
        ),
      );
    } else if (
      image.encoding === 'data' &&
      colourful > 0.15 &&
      normal < NOT_NORMAL_SHARE &&
      takenWhole(examined, image)
    )
      findings.push(
        findingAt(
          say.colorAsData(image.source),
          image.span,
          wordFix(examined, image, 'color', ENCODINGS, 'Read it as color'),
        ),
      );
    if (image.wrap !== 'clamp' && !(isPowerOfTwo(pixels.width) && isPowerOfTwo(pixels.height)))
      findings.push(findingAt(say.notPowerOfTwo(image.source, pixels.width, pixels.height), image.span));
  }
  return findings;
};

/** Whether the red, green and blue of an image are taken together, as a colour is. */
function takenWhole({ expressions }: Examined, image: ImageDeclaration): boolean {
  const reads = (typed: Typed): boolean =>
    typed.kind === 'step'
      ? reads(typed.step.value)
      : typed.kind === 'call' && [...typed.args.values()].some((a) => a.kind === 'image' && a.image === image);
  return expressions.some(
    ({ typed }) =>
      typed.kind === 'swizzle' && typed.indices.length >= 3 && new Set(typed.indices).size >= 3 && reads(typed.of),
  );
}
