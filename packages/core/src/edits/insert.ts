import type { TextEdit } from '../diagnostics/diagnostic.ts';
import { applyEdits } from './edits.ts';
import { insertStage } from './call-edits.ts';
import { insertDeclaration, insertStep, type Insertion } from './line-edits.ts';
import { parse } from '../lang/parse.ts';
import type { Expression } from '../lang/tree.ts';
import { stagesOf } from '../lang/walk.ts';
import { lapsText, PHRASES } from '../ops/phrases.ts';
import { operationNamed } from '../ops/table.ts';
import { flowsIn, type Accepts, type Family, type Operation, type OperationParameter } from '../ops/operation.ts';
import { check } from '../check/check.ts';
import { freeName } from './make-dial.ts';
import { declareTexture, type Texture } from './texture-edits.ts';
import { CHANNEL_TYPES, type Channel, type Program, type Step } from '../check/program.ts';

/** Names that steps made of an operation are given. */
const NAMES: Record<Family, string> = {
  coordinates: 'flow',
  motion: 'flow',
  time: 'held',
  noise: 'noise',
  sampling: 'film',
  patterns: 'shape',
  shaping: 'mask',
  colour: 'tint',
  layers: 'layer',
  surface: 'surface',
  maths: 'value',
};

/** Whether a value of a step's type may be given where `accepts` stands. */
function fits(step: Step, accepts: readonly Accepts[]): boolean {
  const { type } = step;
  if (type === 'unknown') return false;
  return accepts.some(
    (a) =>
      a === type ||
      (a === 'vector' && /^(number|vec.)$/.test(type)) ||
      a === 'quantity' ||
      (a === 'color' && /^(number|vec3|vec4)$/.test(type)),
  );
}
const fitsClosely = (step: Step, accepts: readonly Accepts[]): boolean =>
  accepts.some(
    (a) =>
      a === step.type ||
      (a === 'color' && (step.type === 'vec4' || step.type === 'vec3')) ||
      (a === 'vector' && step.type === 'number'),
  );

/** The nearest step at or above `index` that fits, the closest types first. */
function stepFor(program: Program, index: number, accepts: readonly Accepts[]): Step | undefined {
  const above = program.steps.slice(0, index + 1).filter((s) => s.kind === 'step' && !s.off);
  return above.findLast((s) => fitsClosely(s, accepts)) ?? above.findLast((s) => fits(s, accepts));
}

/** What an operation needs beside the text: images and ramps that must be declared first. */
interface Needs {
  readonly edits: TextEdit[];
  readonly program: Program;
  readonly texture: Texture | undefined;
}

const written = (v: number, accepts: Accepts): string =>
  accepts === 'rate' ? lapsText(v) : accepts === 'angle' ? `${String(Math.round(v * 360))}deg` : String(v);

/** A fitting value for a parameter that has no default. */
function sampleFor(needs: Needs, index: number, operation: Operation, p: OperationParameter): string {
  const { program } = needs;
  const [accepts = 'number'] = p.accepts;
  if (accepts === 'image') {
    const [image] = program.images;
    if (image && !needs.texture) return image.name;
    const { name, edits } = declareTexture(program, needs.texture ?? { source: 'picture.png', encoding: 'color' });
    needs.edits.push(...edits);
    return name;
  }
  if (accepts === 'ramp') {
    const [ramp] = program.ramps;
    if (ramp) return ramp.name;
    const name = freeName(program, 'glow');
    needs.edits.push(
      ...insertDeclaration(program.tree, ['ramp'], `ramp ${name} = 0% #000000, 60% #c2703d, 100% #fff4d6`),
    );
    return name;
  }
  if (p.options) return p.options[0] ?? '';
  if (accepts === 'color') return '#ffffff';
  if (accepts === 'rate') return '1 lap';
  if (accepts === 'time') return '0.5s';
  if (accepts === 'angle') return p.sample ?? '0deg';
  const step = operation.family === 'motion' ? undefined : stepFor(program, index, p.accepts);
  if (!p.range && step) return step.name;
  if (!p.range && p.accepts.includes('vec2')) return p.sample ?? 'uv';
  if (!p.range && p.accepts.includes('vec3')) return '(0, 0, 1)';
  const [low, high] = p.range ?? [0, 1];
  const middle =
    p.name === 'low'
      ? low
      : p.name === 'high'
        ? high
        : low <= 1 && high >= 1 && high > 2
          ? Math.max(1, Math.min(2, high))
          : low + (high - low) / 2;
  return written(p.whole ? Math.max(Math.round(middle), 2) : Number(middle.toPrecision(3)), accepts);
}

/**
 * A call of an operation made anew: an argument for each parameter that needs one, by `argument`, and those samples that
 * show what it does. What flows in is left out where `flows`.
 */
export function sampleCall(
  operation: Operation,
  flows: boolean,
  argument: (parameter: OperationParameter) => string,
): string {
  const all = operation.parameters.slice(flows ? 1 : 0);
  let inOrder = true;
  const args = all.flatMap((p) => {
    const needed = p.default === undefined && !p.optional && !p.named;
    if (!needed && p.sample === undefined) {
      inOrder = false;
      return [];
    }
    // A default that is written says which it is.
    const named = !inOrder || p.default !== undefined;
    return [`${named ? `${p.name}: ` : ''}${needed ? argument(p) : (p.sample ?? '')}`];
  });
  return `${operation.name}(${args.join(', ')})`;
}

const callFor = (needs: Needs, index: number, operation: Operation): string =>
  sampleCall(operation, flowsIn(operation), (p) => sampleFor(needs, index, operation, p));

/**
 * Where the new thing goes: as a stage on the step at `index`, or as a line below it. `index` -1 is before every step.
 */
export interface InsertPlace {
  readonly index: number;
  readonly as: 'stage' | 'line';
  /** The source of images that it needs; without it the first that the text declares, if any. */
  readonly texture?: Texture;
}

/** Whether an operation can go on where a step ends. */
function canFollow(operation: Operation, step: Step | undefined): boolean {
  const [first] = operation.parameters;
  return step?.kind === 'step' && first !== undefined && flowsIn(operation) && fits(step, first.accepts);
}

/** Whether a value of an operation's first parameter flows in that accepts coordinates. */
const takesCoordinates = (operation: Operation | undefined): boolean =>
  operation !== undefined && flowsIn(operation) && operation.parameters[0]?.accepts.includes('vec2') === true;

/**
 * Where an operation goes that is put onto the step at `index`: behind it where it fits; what moves coordinates goes
 * onto the coordinates that a step reads, so that all that reads them moves along. Undefined where nothing fits.
 */
export function stagePlace(
  program: Program,
  operation: Operation,
  index: number,
): { readonly step: Step; readonly behind: Expression } | undefined {
  const step = program.steps[index];
  const statement = program.tree.statements.find((s) => s.kind === 'step' && s.from === step?.span.from);
  if (!step || statement?.kind !== 'step') return undefined;
  if (canFollow(operation, step)) return { step, behind: statement.value };
  if (!takesCoordinates(operation) || operation.result !== 'vec2') return undefined;
  const { source, stages } = stagesOf(statement.value);
  if (stages.length === 0) return undefined;
  if (source.kind === 'name') {
    const read = program.steps.findLast((s) => s.index < index && s.kind === 'step' && s.name === source.name);
    if (read?.type === 'vec2' && !read.off) return stagePlace(program, operation, read.index);
  }
  let behind = source;
  for (const stage of stages) {
    const of = operationNamed(stage.call.callee.name);
    if (!takesCoordinates(of)) return undefined;
    if (of?.result !== 'vec2') return { step, behind };
    behind = stage;
  }
  return undefined;
}

/**
 * Writes an operation with sensible arguments: as a stage where it fits, else as a new line that takes the nearest
 * fitting step, or uv.
 */
export function insertOperation(
  program: Program,
  operation: Operation,
  { index, as, texture }: InsertPlace,
): Insertion {
  const { tree, steps } = program;
  const here = steps[index];
  const needs: Needs = { edits: [], program, texture };
  const place = as === 'stage' ? stagePlace(program, operation, index) : undefined;
  if (place) {
    const call = callFor(needs, place.step.index - 1, operation);
    return { edits: [...needs.edits, ...insertStage(tree.text, place.behind, call)], step: place.step.index };
  }
  const [first] = operation.parameters;
  const upTo = here ? index : steps.length - 1;
  let text = callFor(needs, upTo, operation);
  if (first && flowsIn(operation)) {
    const flowing = stepFor(program, upTo, first.accepts);
    const start = first.accepts.includes('vec2') || !flowing ? 'uv' : flowing.name;
    const ready = !flowing && !first.accepts.includes('vec2') ? sourceFor(first.accepts) : (flowing?.name ?? start);
    text = `${ready} |> ${text}`;
  }
  const scalar = operation.result !== 'vec2' && operation.family === 'motion';
  const name = freeName(program, scalar ? 'beat' : NAMES[operation.family]);
  const edits = [...needs.edits, ...insertStep(tree, here?.span.from, `${name} = ${text}`)];
  return { edits, step: stepAfter(tree.text, edits, name) };
}

/** Something that flows where no step does yet. */
const sourceFor = (accepts: readonly Accepts[]): string =>
  accepts.includes('vec3') && !accepts.includes('color')
    ? '(0, 0, 1)'
    : accepts.includes('color')
      ? '#c2703d'
      : PHRASES.cloud;

/** Writes an output of the nearest step that fits it, or of its neutral value. */
export function insertOutput(program: Program, channel: Channel, index: number): Insertion {
  const accepts = CHANNEL_TYPES[channel];
  const here = program.steps[index];
  const step =
    here?.kind === 'step' && fits(here, [accepts]) ? here : stepFor(program, program.steps.length - 1, [accepts]);
  const value =
    step?.name ??
    (accepts === 'color' ? '#c2703d' : accepts === 'vec3' ? '(0, 0, 1)' : channel === 'refraction' ? '1.2' : '0.5');
  const existing = program.tree.statements.findLast((s) => s.kind === 'out' && s.channel.name === channel && !s.off);
  const edits =
    existing?.kind === 'out'
      ? [{ from: existing.value.from, to: existing.value.to, insert: value }]
      : insertStep(
          program.tree,
          program.tree.statements.findLast((s) => s.kind === 'out')?.from,
          `out ${channel} = ${value}`,
        );
  return { edits, step: stepAfter(program.tree.text, edits, channel) };
}

function stepAfter(text: string, edits: readonly TextEdit[], name: string): number {
  return check(parse(applyEdits(text, edits))).steps.findLastIndex((s) => s.name === name);
}
