/// <reference lib="webworker" />
import {
  applyEdits,
  Baker,
  carriedBy,
  check,
  compile,
  countsOf,
  differencePicture,
  examine,
  keepingTheLook,
  parse,
  seamGaps,
  traceOf,
  velocityField,
  type Budget,
  type Compiled,
  type Graph,
  type ImageSource,
  type Program,
  type Report,
  type Shift,
  type TextEdit,
  type TraceLine,
  type Verdicts,
} from '@estela/core';
import { expose, transfer } from 'comlink';
import { decoded, imagesOf, type PictureRef } from './decoded.ts';
import { DissolveWatch, type DissolveView } from './dissolve-watch.ts';
import { Prober } from './probe.ts';
import { StepPictures, type StepFrame } from './step-pictures.ts';

/**
 * A material as it is asked about: its text, the variant whose values hold, and the pictures of its project by name.
 */
export interface Subject {
  readonly text: string;
  readonly variant: string | undefined;
  readonly pictures: ReadonlyMap<string, PictureRef>;
}

/** What is said of a material without opening it. */
export type Looked =
  'errors' | { readonly verdicts: Verdicts['verdicts']; readonly grave: number; readonly notes: number };

let kept: { readonly text: string; readonly variant: string | undefined; readonly compiled: Compiled } | undefined;

/** A text compiled for a variant, kept while both stay. */
function compiledOf({ text, variant }: Pick<Subject, 'text' | 'variant'>): Compiled {
  if (kept?.text !== text || kept.variant !== variant)
    // Another variant of a text needs no new check.
    kept = { text, variant, compiled: compile(kept?.text === text ? kept.compiled.program : text, { variant }) };
  return kept.compiled;
}

async function imagesFor(program: Program, pictures: ReadonlyMap<string, PictureRef>): Promise<ImageSource> {
  const images = await imagesOf(program, pictures, (picture) => decoded(picture).catch(() => undefined));
  return (slot) => images.get(slot.source);
}

interface Prepared {
  readonly program: Program;
  readonly graph: Graph;
  readonly dials: ReadonlyMap<string, readonly number[]>;
}
async function prepared(subject: Subject): Promise<Prepared & { readonly images: ImageSource }> {
  const { program, graph, values } = compiledOf(subject);
  return { program, graph, dials: values.dials, images: await imagesFor(program, subject.pictures) };
}

let newest = 0;
/** Lets a newer question in. */
const breathe = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, 0));

const prober = new Prober();
const watch = new DissolveWatch();
const pictures = new StepPictures();

/**
 * What is found out about a material by proof and by evaluation. The page has two of these: one that examines, one that
 * draws.
 */
const work = {
  /** What every step is worth at one pixel; see Prober. */
  values: prober.values.bind(prober),
  history: prober.history.bind(prober),
  /** Pictures of steps; see StepPictures. */
  async steps(...asked: Parameters<StepPictures['draw']>): Promise<StepFrame | undefined> {
    const frame = await pictures.draw(...asked);
    return frame && transfer(frame, [frame.data.buffer]);
  },
  /** Tells each stage of a report; a newer question ends an older one. Nothing of a text with errors. */
  async examine(subject: Subject, aspect: number, budget: Budget, tell: (report: Report) => void): Promise<void> {
    const mine = ++newest;
    const { variant } = subject;
    const { program, ok } = compiledOf(subject);
    if (!ok) return;
    const images = await imagesFor(program, subject.pictures);
    await breathe();
    if (mine !== newest) return;
    for (const report of examine(program, { variant, images, aspect, budget })) {
      tell(report);
      await breathe();
      if (mine !== newest) return;
    }
  },
  /** The report of an edited text, without measuring; undefined where it would have errors. */
  async after({ text, variant, pictures }: Subject, edits: readonly TextEdit[]): Promise<Report | undefined> {
    const compiled = compile(applyEdits(text, edits), { variant });
    const { program } = compiled;
    if (!compiled.ok) return undefined;
    const images = await imagesFor(program, pictures);
    let seen: Report | undefined;
    for (seen of examine(program, { variant, compiled, images })) if (seen.stage === 'seen') break;
    return seen;
  },
  async keeping(subject: Subject, all: readonly (readonly TextEdit[])[], time: number): Promise<number[]> {
    const { program } = compiledOf(subject);
    return keepingTheLook(program, all, time, subject.variant, await imagesFor(program, subject.pictures));
  },
  /** What a card says of a text: its verdicts, and how much was found. */
  async look(text: string, pictures: ReadonlyMap<string, PictureRef>): Promise<Looked> {
    const program = check(parse(text));
    if (!program.ok) return 'errors';
    let report: Report | undefined;
    for (report of examine(program, { images: await imagesFor(program, pictures) })) {
      // The fine measure of the jump adds nothing to the counts.
      if (report.stage === 'measured') break;
      await breathe();
    }
    return { verdicts: report!.verdicts.whole.verdicts, ...countsOf(report!.findings) };
  },
  /** What a dissolve does at a moment; the number is its place among those of the text. */
  dissolve: (
    text: string,
    index: number,
    time: number,
    pictures: ReadonlyMap<string, PictureRef>,
    at?: readonly [number, number],
  ): Promise<DissolveView | undefined> => watch.look(text, index, time, pictures, at),
  async trace(
    subject: Subject,
    line: TraceLine,
    columns: number,
    rows: number,
  ): Promise<Uint8ClampedArray<ArrayBuffer>> {
    const data = traceOf(await prepared(subject), line, { columns, rows });
    return transfer(data, [data.buffer]);
  },
  async difference(subject: Subject, shifts: readonly Shift[], time: number, size: number): Promise<Float32Array> {
    return differencePicture(await prepared(subject), shifts, { time, size });
  },
  /** How the picture of a step moves, and the step whose coordinate carries it; undefined where none does. */
  async velocity(
    subject: Subject,
    step: number,
    time: number,
    size: number,
  ): Promise<{ readonly field: Float32Array; readonly step: number } | undefined> {
    const measured = await prepared(subject);
    const asked = measured.graph.program.steps[step];
    const carrier = asked && carriedBy(measured.graph, asked);
    return carrier && { field: velocityField(measured, carrier.node, { time, size }), step: carrier.step.index };
  },
  /** How far the material is from meeting itself over each seam of a mesh; see seamGaps. */
  async seams(subject: Subject, seams: Float32Array): Promise<Float32Array> {
    return seamGaps(await prepared(subject), seams);
  },
  /** Frames of what is put out as colour, as RGBA bytes, by number; N is the frame after the last. */
  async frames(subject: Subject, frames: readonly number[], size: number): Promise<Uint8ClampedArray<ArrayBuffer>[]> {
    const { program, values } = compiledOf(subject);
    const images = await imagesFor(program, subject.pictures);
    const baker = Baker.of(program, values, { output: 'color', width: size, height: size, samples: 1 }, images);
    const all = baker ? frames.map((f) => new Uint8ClampedArray(baker.frame(f).buffer)) : [];
    return transfer(
      all,
      all.map((a) => a.buffer),
    );
  },
};
export type MaterialWork = typeof work;

expose(work);
