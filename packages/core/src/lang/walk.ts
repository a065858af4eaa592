import type { Span } from '../diagnostics/diagnostic.ts';
import type { Expression, PipeExpression, Statement, SyntaxTree } from './tree.ts';

/** The expressions right below one, in the order they are written. */
export function partsOfExpression(e: Expression): readonly Expression[] {
  switch (e.kind) {
    case 'vector':
      return e.items;
    case 'group':
      return [e.inner];
    case 'unary':
      return [e.operand];
    case 'binary':
      return [e.left, e.right];
    case 'call':
      return e.args.map((a) => a.value);
    case 'pipe':
      return [e.left, e.call];
    case 'swizzle':
      return [e.of];
    case 'number':
    case 'color':
    case 'on-off':
    case 'name':
    case 'missing':
      return [];
  }
}

/** The expressions a statement holds itself. */
export function expressionsOfStatement(statement: Statement): readonly Expression[] {
  switch (statement.kind) {
    case 'step':
    case 'out':
    case 'switch':
      return [statement.value];
    case 'dial':
      return [statement.value, statement.low, statement.high, statement.by].filter((e) => e !== undefined);
    case 'loop':
      return [statement.time, statement.fps].filter((e) => e !== undefined);
    case 'ramp':
      return statement.stops.flatMap((s) => [s.at, s.color]);
    case 'op':
      return [
        ...statement.parameters.flatMap((p) => (p.value ? [p.value] : [])),
        ...statement.steps.map((s) => s.value),
        statement.result,
      ];
    case 'variant':
      return statement.entries.map((e) => e.value);
    case 'material':
    case 'surface':
    case 'image':
    case 'bad':
      return [];
  }
}

const holds = (span: Span, at: number): boolean => span.from <= at && at <= span.to;

/** The expressions around an offset, the outermost first; those that touch it count. */
export function pathTo(tree: SyntaxTree, at: number): readonly Expression[] {
  const statement = tree.statements.find((s) => holds(s, at) && expressionsOfStatement(s).some((e) => holds(e, at)));
  const path: Expression[] = [];
  let parts = statement ? expressionsOfStatement(statement) : [];
  for (;;) {
    const next = parts.findLast((e) => holds(e, at));
    if (!next) return path;
    path.push(next);
    parts = partsOfExpression(next);
  }
}

/** Every expression of a text below `roots`, each before its parts. */
export function* everyExpression(roots: readonly Expression[]): Generator<Expression> {
  for (const e of roots) {
    yield e;
    yield* everyExpression(partsOfExpression(e));
  }
}

/** A value as what flows in first, and the stages behind it in order. */
export function stagesOf(value: Expression): {
  readonly source: Expression;
  readonly stages: readonly PipeExpression[];
} {
  const stages: PipeExpression[] = [];
  let at = value;
  while (at.kind === 'pipe') {
    stages.unshift(at);
    at = at.left;
  }
  return { source: at, stages };
}
