import {
  argumentsByParameter,
  operationNamed,
  partsOfExpression,
  stagesOf,
  type Argument,
  type CallExpression,
  type Expression,
  type Operation,
  type OperationParameter,
  type OutputStatement,
  type PipeExpression,
  type Program,
  type StepStatement,
  lapsText,
} from '@estela/core';

export type LineStatement = StepStatement | OutputStatement;

/** A call within a line; with `stage`, one of the line's own pipe, which can be switched off, moved and taken out. */
export interface CallOfLine {
  readonly call: CallExpression;
  readonly operation: Operation | undefined;
  readonly flows: boolean;
  readonly stage: PipeExpression | undefined;
  /** Place among the stages of the line's pipe. */
  readonly index: number;
}

/** Calls below an expression, in the order they are written. */
function callsIn(e: Expression, flows = false): { call: CallExpression; flows: boolean }[] {
  const below = partsOfExpression(e).flatMap((part) => callsIn(part, e.kind === 'pipe' && part === e.call));
  return e.kind === 'call' ? [{ call: e, flows }, ...below] : below;
}

/** What is written on the line of a step; undefined where the step or its line is not there. */
export function lineOfStep(program: Program, index: number | undefined): LineStatement | undefined {
  const step = index === undefined ? undefined : program.steps[index];
  return program.tree.statements.find(
    (s): s is LineStatement => (s.kind === 'step' || s.kind === 'out') && s.from === step?.span.from,
  );
}

/** The operations of a line in order. */
export function callsOf(value: Expression): CallOfLine[] {
  const { source, stages } = stagesOf(value);
  const inner = (e: Expression): CallOfLine[] =>
    callsIn(e).map(({ call, flows }) => ({
      call,
      flows,
      operation: operationNamed(call.callee.name),
      stage: undefined,
      index: -1,
    }));
  return [
    ...inner(source),
    ...stages.flatMap((stage, index): CallOfLine[] => [
      { call: stage.call, flows: true, operation: operationNamed(stage.call.callee.name), stage, index },
      ...stage.call.args.flatMap((a) => inner(a.value)),
    ]),
  ];
}

/** Parameters of a call with what is given to each; of an operation of one's own, by its declaration. */
export function rowsOf(
  program: Program,
  { call, operation, flows }: CallOfLine,
): { readonly parameter: OperationParameter; readonly argument: Argument | undefined }[] {
  if (operation) {
    const given = argumentsByParameter(call, flows);
    const names = new Set([...given.keys()].map((p) => p.name));
    // What may not stand beside what is given is not offered.
    const clashes = (p: OperationParameter): boolean =>
      operation.needs?.(names) === undefined && operation.needs?.(new Set([...names, p.name])) !== undefined;
    return operation.parameters
      .slice(flows ? 1 : 0)
      .flatMap((parameter) =>
        given.has(parameter) || !clashes(parameter) ? [{ parameter, argument: given.get(parameter) }] : [],
      );
  }
  const own = program.operations.find((o) => o.name === call.callee.name)?.parameters.slice(flows ? 1 : 0) ?? [];
  return own.map(({ name, accepts }, i) => ({
    parameter: { name, accepts: [accepts], help: 'A parameter of your operation.' },
    argument: call.args.find((a) => a.name?.name === name) ?? (call.args[i]?.name ? undefined : call.args[i]),
  }));
}

/** A default as Wake text. */
export function defaultText({ default: value, accepts }: OperationParameter): string {
  if (value === undefined) return '';
  if (typeof value === 'string') return value;
  const [first] = accepts;
  const one = (v: number): string =>
    first === 'angle'
      ? `${String(Number((v * 360).toPrecision(6)))}deg`
      : first === 'rate'
        ? lapsText(v)
        : first === 'time'
          ? `${String(v)}s`
          : String(v);
  return typeof value === 'number' ? one(value) : `(${value.map(one).join(', ')})`;
}
