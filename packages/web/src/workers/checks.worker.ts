/// <reference lib="webworker" />
import {
  applyEdits,
  Baker,
  carriedBy,
  check,
  differencePicture,
  examine,
  keepingTheLook,
  lower,
  parse,
  seamGaps,
  settingValues,
  traceOf,
  velocityField,
  type Budget,
  type Graph,
  type ImageSource,
  type Program,
  type Report,
  type Shift,
  type TextEdit,
  type TraceLine,
} from '@estela/core';
import { expose, transfer } from 'comlink';
import { decoded, imagesOf, type PictureRef } from './pixel-cache.ts';

/**
 * A material as it is asked about: its text, the variant whose values hold, and the pictures of its project by name.
 */
export interface Subject {
  readonly text: string;
  readonly variant: string | undefined;
  readonly pictures: ReadonlyMap<string, PictureRef>;
}

let read: { readonly text: string; readonly program: Program } | undefined;
const programOf = (text: string): Program =>
  (read = read?.text === text ? read : { text, program: check(parse(text)) }).program;

async function imagesFor(program: Program, pictures: ReadonlyMap<string, PictureRef>): Promise<ImageSource> {
  const images = await imagesOf(program, pictures, (picture) => decoded(picture).catch(() => undefined));
  return (slot) => images.get(slot.source);
}

interface Prepared {
  readonly program: Program;
  readonly graph: Graph;
  readonly dials: ReadonlyMap<string, readonly number[]>;
}
let lowered: (Prepared & { readonly variant: string | undefined }) | undefined;

/** A graph with the values of a variant, kept while text and variant stay, and its images. */
async function prepared({ text, variant, pictures }: Subject): Promise<Prepared & { readonly images: ImageSource }> {
  const program = programOf(text);
  if (lowered?.program !== program || lowered.variant !== variant) {
    const { dials, switches } = settingValues(program, variant);
    lowered = { program, variant, graph: lower(program, switches), dials };
  }
  return { ...lowered, images: await imagesFor(program, pictures) };
}

let newest = 0;
/** Lets a newer question in. */
const breathe = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, 0));

/**
 * What is found out about a material by proof and by evaluation. The page has two of these: one that examines, one that
 * draws.
 */
const work = {
  /** Tells each stage of a report; a newer question ends an older one. Nothing of a text with errors. */
  async examine(
    { text, variant, pictures }: Subject,
    aspect: number,
    budget: Budget,
    tell: (report: Report) => void,
  ): Promise<void> {
    const mine = ++newest;
    const program = programOf(text);
    if (!program.ok) return;
    const images = await imagesFor(program, pictures);
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
    const program = check(parse(applyEdits(text, edits)));
    if (!program.ok) return undefined;
    const images = await imagesFor(program, pictures);
    let seen: Report | undefined;
    for (seen of examine(program, { variant, images })) if (seen.stage === 'seen') break;
    return seen;
  },
  async keeping(
    { text, variant, pictures }: Subject,
    all: readonly (readonly TextEdit[])[],
    time: number,
  ): Promise<number[]> {
    const program = programOf(text);
    return keepingTheLook(program, all, time, variant, await imagesFor(program, pictures));
  },
  async trace(
    subject: Subject,
    line: TraceLine,
    columns: number,
    rows: number,
  ): Promise<Uint8ClampedArray<ArrayBuffer>> {
    const { graph, dials, images } = await prepared(subject);
    const data = traceOf(graph, line, dials, columns, rows, images);
    return transfer(data, [data.buffer]);
  },
  async difference(subject: Subject, shifts: readonly Shift[], time: number, size: number): Promise<Float32Array> {
    const { graph, dials, images } = await prepared(subject);
    return differencePicture(graph, shifts, time, dials, size, images);
  },
  /** How the picture of a step moves, and the step whose coordinate carries it; undefined where none does. */
  async velocity(
    subject: Subject,
    step: number,
    time: number,
    size: number,
  ): Promise<{ readonly field: Float32Array; readonly step: number } | undefined> {
    const { program, graph, dials, images } = await prepared(subject);
    const asked = program.steps[step];
    const carrier = asked && carriedBy(graph, asked);
    return (
      carrier && { field: velocityField(graph, carrier.node, time, dials, size, images), step: carrier.step.index }
    );
  },
  /** How far the material is from meeting itself over each seam of a mesh; see seamGaps. */
  async seams(subject: Subject, seams: Float32Array): Promise<Float32Array> {
    const { graph, dials, images } = await prepared(subject);
    return seamGaps(graph, seams, dials, images);
  },
  /** Frames of what is put out as colour, as RGBA bytes, by number; N is the frame after the last. */
  async frames(
    { text, variant, pictures }: Subject,
    frames: readonly number[],
    size: number,
  ): Promise<Uint8ClampedArray<ArrayBuffer>[]> {
    const program = programOf(text);
    const values = settingValues(program, variant);
    const images = await imagesFor(program, pictures);
    const baker = Baker.of(program, values, { channel: 'color', width: size, height: size, samples: 1 }, images);
    const all = baker ? frames.map((f) => new Uint8ClampedArray(baker.frame(f).buffer)) : [];
    return transfer(
      all,
      all.map((a) => a.buffer),
    );
  },
};
export type CheckWork = typeof work;

expose(work);
