import type { Program, Step, Typed } from './program.ts';

/** The expressions right below one, in the order they are written. */
export function partsOf(typed: Typed): readonly Typed[] {
  switch (typed.kind) {
    case 'vector':
      return typed.items;
    case 'swizzle':
    case 'negate':
    case 'convert':
      return [typed.of];
    case 'binary':
      return [typed.left, typed.right];
    case 'call':
      return [...typed.args.values()];
    case 'expand':
      return typed.args;
    case 'error':
    case 'constant':
    case 'dial':
    case 'switch':
    case 'step':
    case 'parameter':
    case 'built-in':
    case 'image':
    case 'ramp':
    case 'keyword':
      return [];
  }
}

/** An expression and all below it, the outer before the inner. */
export function* within(typed: Typed): Generator<Typed> {
  yield typed;
  for (const part of partsOf(typed)) yield* within(part);
}

/** The steps that an expression reads by name, each as often as it does. */
export function stepsIn(typed: Typed, found: Step[] = []): Step[] {
  if (typed.kind === 'step') found.push(typed.step);
  else for (const part of partsOf(typed)) stepsIn(part, found);
  return found;
}

/** The step whose value a step's name stands for: of a line that is off the one it leaves in force, if any. */
export const inForce = (step: Step): Step | undefined => (step.off ? step.before : step);

/** The keyword given to a parameter of a call; undefined where none is written. */
export function keywordOf(call: Extract<Typed, { kind: 'call' }>, parameter: string): string | undefined {
  const word = call.args.get(parameter);
  return word?.kind === 'keyword' ? word.word : undefined;
}

/** An expression with the one around it, and the step it belongs to. */
export interface Placed {
  readonly typed: Typed;
  readonly parent: Typed | undefined;
  readonly step: Step | undefined;
}

/** Every expression of a material, those of its own operations included, the outer before the inner. */
export function expressionsOf(program: Program): readonly Placed[] {
  const all: Placed[] = [];
  const below = (typed: Typed, parent: Typed | undefined, step: Step | undefined): void => {
    all.push({ typed, parent, step });
    for (const part of partsOf(typed)) below(part, typed, step);
  };
  for (const step of program.steps) below(step.value, undefined, step);
  for (const operation of program.operations) {
    for (const step of operation.steps) below(step.value, undefined, step);
    below(operation.result, undefined, undefined);
  }
  return all;
}
