import { check } from '../check/check.ts';
import type { Program, Typed } from '../check/program.ts';
import { expressionsOf } from '../check/walk.ts';
import type { Span, TextEdit } from '../diagnostics/diagnostic.ts';
import type { Encoding } from '../image/encoding.ts';
import { parse } from '../lang/parse.ts';
import { PHRASES } from '../ops/phrases.ts';
import { applyEdits } from './edits.ts';
import { insertDeclaration, insertStep, type Insertion } from './line-edits.ts';
import { freeName } from './make-dial.ts';

/** A source of the project, and how its values are meant. */
export interface Texture {
  readonly source: string;
  readonly encoding: Encoding;
}

/** What a step that samples is called, by what it samples. */
const STEP_NAMES: Record<Encoding, string> = { color: 'film', data: 'mask', normal: 'tilt' };

const quoted = (source: string): string => `"${source.replace(/["\n\r]/g, "'")}"`;
const nameFor = (program: Program, source: string): string =>
  freeName(program, source.replace(/\.[^.]*$/, '').replace(/^\d+/, '') || 'picture');

/** The image of a source: the one that the text declares, or a new line of the right words. */
export function declareTexture(program: Program, { source, encoding }: Texture): { name: string; edits: TextEdit[] } {
  const known = program.images.find((i) => i.source === source && i.encoding === encoding);
  if (known) return { name: known.name, edits: [] };
  const name = nameFor(program, source);
  const line = `image ${name} = ${quoted(source)} repeat linear ${encoding}`;
  return { name, edits: insertDeclaration(program.tree, ['image'], line) };
}

const hasOutput = ({ tree }: Program, channel: string): boolean =>
  tree.statements.some((s) => s.kind === 'out' && s.channel.name === channel && !s.off);

/** Makes a surface lit that is not. */
function light({ tree, surface }: Program): TextEdit[] {
  if (surface.lit) return [];
  const line = tree.statements.find((s) => s.kind === 'surface');
  const word = line?.kind === 'surface' ? line.words.find((w) => w.name === 'unlit') : undefined;
  if (word) return [{ from: word.from, to: word.to, insert: 'lit' }];
  if (line) return [{ from: line.to, to: line.to, insert: ' lit' }];
  return insertDeclaration(tree, ['material', 'loop'], 'surface lit');
}

/**
 * Brings a source into a material in one edit: its `image` line, a step below the one at `index` that samples it at the
 * nearest coordinates, and an output where its kind has none: `color`, or of a normal map `normal`, on a lit surface.
 */
export function insertTexture(program: Program, texture: Texture, index: number): Insertion {
  const { tree, steps } = program;
  const image = declareTexture(program, texture);
  const here = steps[index] ?? steps.findLast((s) => s.kind === 'step');
  const above = here ? steps.slice(0, here.index + 1) : [];
  const coordinates = above.findLast((s) => s.kind === 'step' && s.type === 'vec2' && !s.off);
  const taken: Program = image.edits.length > 0 ? checkedAfter(program, image.edits) : program;
  const step = freeName(taken, STEP_NAMES[texture.encoding]);
  const flow = coordinates?.name ?? freeName(taken, 'flow');
  // Coordinates in a line of their own, so that all that is sampled there moves together.
  const start = coordinates ? '' : `${flow} = ${PHRASES.square}\n`;
  const lines = insertStep(
    tree,
    here?.kind === 'step' ? here.span.from : undefined,
    `${start}${step} = ${PHRASES.read(flow, image.name)}`,
  );
  const [channel, value] = texture.encoding === 'normal' ? ['normal', `${step}.xyz`] : ['color', step];
  const output = hasOutput(program, channel)
    ? []
    : insertStep(tree, tree.statements.findLast((s) => s.kind === 'out')?.from, `out ${channel} = ${value}`);
  const lit = output.length > 0 && channel === 'normal' ? light(program) : [];
  const edits = [...lit, ...image.edits, ...lines, ...output];
  return { edits, step: checkedAfter(program, edits).steps.findLastIndex((s) => s.kind === 'step' && s.name === step) };
}

const checkedAfter = ({ tree }: Program, edits: readonly TextEdit[]): Program =>
  check(parse(applyEdits(tree.text, edits)));

type ImageArgument = Extract<Typed, { kind: 'image' }>;

/** Where images are named in the lines of steps. */
function imageArguments(program: Program): { readonly step: number | undefined; readonly of: ImageArgument }[] {
  return expressionsOf(program).flatMap(({ typed, step }) =>
    typed.kind === 'image' ? [{ step: step?.index, of: typed }] : [],
  );
}

/** Whether a step reads an image. */
export const samples = (program: Program, index: number): boolean =>
  imageArguments(program).some(({ step }) => step === index);

/**
 * Lets the step at `index` read another source in place of the first image it reads; undefined where it reads none. An
 * image that nothing reads then gives its line to the new one, and its wrap and filter.
 */
export function replaceTexture(program: Program, texture: Texture, index: number): TextEdit[] | undefined {
  const all = imageArguments(program);
  const first = all.find(({ step }) => step === index)?.of;
  if (!first) return undefined;
  const old = first.image;
  if (old.source === texture.source && old.encoding === texture.encoding) return [];
  const others = all.filter(({ of }) => of.image === old).length > 1;
  const known = program.images.some((i) => i.source === texture.source && i.encoding === texture.encoding);
  if (others || known) {
    const image = declareTexture(program, texture);
    return [...image.edits, { ...spanOf(first), insert: image.name }];
  }
  const { source, encoding } = texture;
  const name = nameFor(program, source);
  const line = `image ${name} = ${quoted(source)} ${old.wrap} ${old.filter} ${encoding}`;
  return [
    { ...spanOf(old.span), insert: line },
    { ...spanOf(first), insert: name },
  ];
}

const spanOf = ({ from, to }: Span): Span => ({ from, to });
