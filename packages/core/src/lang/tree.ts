import type { Diagnostic, Span } from '../diagnostics/diagnostic.ts';
import type { Token, Unit } from './tokens.ts';

/** A name as written, with its own place. */
export interface Identifier extends Span {
  readonly name: string;
}

export interface NumberLiteral extends Span {
  readonly kind: 'number';
  /** The value as written, before the unit; `-` before a literal is folded in where only literals may stand. */
  readonly value: number;
  readonly unit?: Unit;
  readonly height: number;
}
export interface ColorLiteral extends Span {
  readonly kind: 'color';
  /** The text with its `#`. */
  readonly hex: string;
  readonly height: number;
}
export interface SwitchLiteral extends Span {
  readonly kind: 'on-off';
  readonly on: boolean;
  readonly height: number;
}
export interface NameExpression extends Span {
  readonly kind: 'name';
  readonly name: string;
  readonly height: number;
}
export interface VectorExpression extends Span {
  readonly kind: 'vector';
  readonly items: readonly Expression[];
  readonly height: number;
}
export interface GroupExpression extends Span {
  readonly kind: 'group';
  readonly inner: Expression;
  readonly height: number;
}
export interface UnaryExpression extends Span {
  readonly kind: 'unary';
  readonly operand: Expression;
  readonly height: number;
}
export type BinaryOperator = '+' | '-' | '*' | '/' | '<' | '<=' | '>' | '>=' | '==';
export interface BinaryExpression extends Span {
  readonly kind: 'binary';
  readonly operator: BinaryOperator;
  readonly operatorSpan: Span;
  readonly left: Expression;
  readonly right: Expression;
  readonly height: number;
}
export interface Argument extends Span {
  readonly name?: Identifier;
  readonly value: Expression;
}
export interface CallExpression extends Span {
  readonly kind: 'call';
  readonly callee: Identifier;
  readonly args: readonly Argument[];
  readonly height: number;
}
/** `left |> call`; with `off` the stage is skipped. `stage` runs from the `|>` to the end of the call. */
export interface PipeExpression extends Span {
  readonly kind: 'pipe';
  readonly left: Expression;
  readonly off?: Span;
  readonly call: CallExpression;
  readonly stage: Span;
  readonly height: number;
}
export interface SwizzleExpression extends Span {
  readonly kind: 'swizzle';
  readonly of: Expression;
  readonly parts: Identifier;
  readonly height: number;
}
/** Stands where an expression could not be read; an error was reported there. */
export interface MissingExpression extends Span {
  readonly kind: 'missing';
  readonly height: number;
}

export type Expression =
  | NumberLiteral
  | ColorLiteral
  | SwitchLiteral
  | NameExpression
  | VectorExpression
  | GroupExpression
  | UnaryExpression
  | BinaryExpression
  | CallExpression
  | PipeExpression
  | SwizzleExpression
  | MissingExpression;

export interface MaterialStatement extends Span {
  readonly kind: 'material';
  readonly title: string;
  readonly titleSpan: Span;
}
export interface LoopStatement extends Span {
  readonly kind: 'loop';
  readonly time?: NumberLiteral;
  readonly fps?: NumberLiteral;
}
export interface SurfaceStatement extends Span {
  readonly kind: 'surface';
  readonly words: readonly Identifier[];
}
export interface DialStatement extends Span {
  readonly kind: 'dial';
  readonly name: Identifier;
  readonly type?: Identifier;
  readonly value: Expression;
  readonly low?: Expression;
  readonly high?: Expression;
  readonly by?: Expression;
  readonly help?: string;
}
export interface SwitchStatement extends Span {
  readonly kind: 'switch';
  readonly name: Identifier;
  readonly value: Expression;
  readonly help?: string;
}
export interface ImageStatement extends Span {
  readonly kind: 'image';
  readonly name: Identifier;
  readonly source: string;
  readonly sourceSpan: Span;
  readonly words: readonly Identifier[];
}
export interface RampStop extends Span {
  readonly at: NumberLiteral;
  readonly color: ColorLiteral;
}
export interface RampStatement extends Span {
  readonly kind: 'ramp';
  readonly name: Identifier;
  readonly stops: readonly RampStop[];
  readonly word?: Identifier;
}
export interface Parameter extends Span {
  readonly name: Identifier;
  readonly type?: Identifier;
  readonly value?: Expression;
}
export interface OperationStatement extends Span {
  readonly kind: 'op';
  readonly name: Identifier;
  readonly parameters: readonly Parameter[];
  readonly steps: readonly StepStatement[];
  readonly result: Expression;
}
export interface StepStatement extends Span {
  readonly kind: 'step';
  readonly off?: Span;
  readonly name: Identifier;
  readonly value: Expression;
}
export interface OutputStatement extends Span {
  readonly kind: 'out';
  readonly off?: Span;
  readonly channel: Identifier;
  readonly value: Expression;
}
export interface VariantEntry extends Span {
  readonly name: Identifier;
  readonly value: Expression;
}
export interface VariantStatement extends Span {
  readonly kind: 'variant';
  readonly title: string;
  readonly titleSpan: Span;
  readonly entries: readonly VariantEntry[];
}
/** A line that is no statement at all; an error was reported there. */
export interface BadStatement extends Span {
  readonly kind: 'bad';
}

export type Statement =
  | MaterialStatement
  | LoopStatement
  | SurfaceStatement
  | DialStatement
  | SwitchStatement
  | ImageStatement
  | RampStatement
  | OperationStatement
  | StepStatement
  | OutputStatement
  | VariantStatement
  | BadStatement;

/** What the parser gives: the tree, the tokens (for highlighting and comments) and what was wrong. */
export interface SyntaxTree {
  readonly text: string;
  readonly statements: readonly Statement[];
  readonly tokens: readonly Token[];
  readonly diagnostics: readonly Diagnostic[];
}
