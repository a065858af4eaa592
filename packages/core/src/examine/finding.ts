import type { Program } from '../check/program.ts';
import { Diagnostics, lineAndColumn, type Diagnostic, type Finding as Said, type Mend, type Span } from '../diagnostics/diagnostic.ts';
import type { ImageSource } from '../image/pixels.ts';
import type { Step } from '../check/program.ts';
import type { Blame } from '../prove/blame.ts';
import type { Budget } from '../prove/cost.ts';
import type { Proof } from '../prove/proof.ts';
import type { AllVerdicts } from '../prove/verdicts.ts';

/** Ways to look at the Stage; a finding names the one that shows it. */
export const LENSES = ['material', 'step', 'tiling', 'seams', 'loop', 'motion'] as const;
export type Lens = (typeof LENSES)[number];

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
}

/** What all checks read. */
export interface Examined {
  readonly program: Program;
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
}

export type Check = (examined: Examined) => readonly Finding[];

type More = Pick<Finding, 'lens' | 'step' | 'because'>;

/** Puts what was said at its place. */
export const found = (said: Said, { from, to }: Span, mends: readonly Mend[] = [], more: More = {}): Finding => ({ ...said, from, to, mends, ...more });

export const lineOf = (program: Program, at: number): number => lineAndColumn(program.tree.text, at).line;

/** The last stage of a pipe rather than all that flows into it. */
export function lastStage(text: string, { from, to }: Span): Span {
  const pipe = text.slice(from, to).lastIndexOf('|>');
  if (pipe < 0) return { from, to };
  const start = from + pipe + 2;
  return { from: start + (/^\s*/.exec(text.slice(start, to))?.[0].length ?? 0), to };
}

/** Each once, in text order. */
export function inTextOrder(findings: readonly Finding[]): Finding[] {
  const once = new Diagnostics();
  for (const f of findings) once.add(f, f, f.mends);
  const key = (d: Diagnostic): string => `${d.code}:${String(d.from)}:${String(d.to)}`;
  const full = new Map(findings.toReversed().map((f) => [key(f), f]));
  return once.all().flatMap((d) => full.get(key(d)) ?? []);
}
