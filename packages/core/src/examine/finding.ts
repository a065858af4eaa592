import { lineAndColumn, type Diagnostic, type Message, type Fix, type Span } from '../diagnostics/diagnostic.ts';
import type { ImageSource } from '../image/pixels.ts';
import type { TileAxes } from '../image/tileable.ts';
import type { Program, Step } from '../check/program.ts';
import type { Placed } from '../check/walk.ts';
import type { Blame } from '../prove/blame.ts';
import type { Budget, Cost } from '../prove/cost.ts';
import type { Proof } from '../prove/proof.ts';
import type { AllVerdicts } from '../prove/verdicts.ts';

/** Ways to look at the Stage; a finding names the one that shows it. */
export type Lens = 'material' | 'step' | 'tiling' | 'seams' | 'loop' | 'motion';

/** One line of the text that had a part in something, and which. */
export interface Reason {
  /** From 1. */
  readonly line: number;
  readonly text: string;
}

/** What an examination found: a diagnostic, with what shows it and what led to it. */
export interface Finding extends Diagnostic {
  readonly lens?: Lens;
  /** The step it is about, by index. */
  readonly step?: number;
  readonly because?: readonly Reason[];
  /** An image that could be made tileable, along one axis or both; nothing of the text is wrong. */
  readonly tileable?: { readonly source: string; readonly image: string; readonly axes: TileAxes };
}

/** What all checks read. */
export interface Examined {
  readonly program: Program;
  /** All of the program's, with their steps. */
  readonly expressions: readonly Placed[];
  readonly proof: Proof;
  readonly verdicts: AllVerdicts;
  /** Breaks of all three shifts, of every step. */
  readonly blames: readonly Blame[];
  /** Steps that an output uses. */
  readonly live: ReadonlySet<Step>;
  readonly images: ImageSource | undefined;
  /** Width over height of the surface it is for. */
  readonly aspect: number;
  readonly budget: Budget;
  readonly cost: Cost;
  /** What each step adds, by its index. */
  readonly stepCosts: readonly Cost[];
}

export type Check = (examined: Examined) => readonly Finding[];

/** What fixes a break; undefined as long as none is proven or refuted. */
export type FixesOf = (blame: Blame) => readonly Fix[] | undefined;

/** Findings that ask for something, and notes beside them. */
export const countsOf = (
  findings: readonly Pick<Finding, 'severity'>[],
): { readonly grave: number; readonly notes: number } => {
  const notes = findings.filter((f) => f.severity === 'note').length;
  return { grave: findings.length - notes, notes };
};

type More = Pick<Finding, 'lens' | 'step' | 'because' | 'tileable'>;

/** Puts what was said at its place. */
export const findingAt = (said: Message, { from, to }: Span, fixes: readonly Fix[] = [], more: More = {}): Finding => ({
  ...said,
  from,
  to,
  fixes,
  ...more,
});

export const lineOf = (program: Program, at: number): number => lineAndColumn(program.tree.text, at).line;

/** The last stage of a pipe rather than all that flows into it. */
export function lastStage(text: string, { from, to }: Span): Span {
  const pipe = text.slice(from, to).lastIndexOf('|>');
  if (pipe < 0) return { from, to };
  const start = from + pipe + 2;
  return { from: start + (/^\s*/.exec(text.slice(start, to))?.[0].length ?? 0), to };
}
