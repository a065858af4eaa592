import type { Program } from '../check/program.ts';
import { expressionsOf } from '../check/walk.ts';
import type { Compiled } from '../compile.ts';
import { say } from '../diagnostics/wording.ts';
import { inTextOrder, type Fix } from '../diagnostics/diagnostic.ts';
import type { ImageSource } from '../image/pixels.ts';
import { measureJump, type Jump } from '../measure/jump.ts';
import { reached, Tracer, type Blame } from '../prove/blame.ts';
import { exceeded, materialCost, stepCosts, type Budget, type Cost } from '../prove/cost.ts';
import { Fixer } from '../prove/fixes.ts';
import { judged, movementsOf, periodsOf, type Movement, type StepPeriod } from '../prove/motion.ts';
import { SHIFTS } from '../measure/subject.ts';
import { Proof } from '../prove/proof.ts';
import {
  isProven,
  provenVerdicts,
  wholeVerdicts,
  witnessedVerdicts,
  type AllVerdicts,
  type Verdicts,
} from '../prove/verdicts.ts';
import { QUICK, sawCuts } from './cuts.ts';
import { jumpingDials, lostPrecision } from './dials.ts';
import { findingAt, type Check, type Examined, type Finding, type FixesOf, type Reason } from './finding.ts';
import { idleDials, type IdleDial } from './idle.ts';
import { imageReadings } from './images.ts';
import { closingReasons, isOpen, openLoops, openTiles, openVariants, reasonsOf } from './loops.ts';
import { repeatedNoise, stretchedNoise } from './noises.ts';
import { unused } from './unused.ts';
import { imageSeams } from './seams.ts';
import { valueRanges } from './values.ts';

/** What is known of a material so far: each stage says more than the one before. */
export interface Report {
  /**
   * `proof`: what is proven; `seen`: with witnesses and findings; `fixes`: with fixes of what does not close;
   * `measured`: with the jump; `done`: with the jump measured finely.
   */
  readonly stage: 'proof' | 'seen' | 'fixes' | 'measured' | 'done';
  readonly verdicts: AllVerdicts;
  /** Why the loop closes, or does not: a chain of lines. */
  readonly because: readonly Reason[];
  readonly movements: readonly Movement[];
  /** By step index. */
  readonly periods: readonly StepPeriod[];
  readonly cost: Cost;
  readonly stepCosts: readonly Cost[];
  /** The base, without a name, and each variant. */
  readonly variants: readonly { readonly name: string | undefined; readonly verdicts: Verdicts; readonly cost: Cost }[];
  readonly findings: readonly Finding[];
  /** Dials without effect as the switches stand. */
  readonly idle: readonly IdleDial[];
  readonly jump?: Jump;
}

export interface ExamineOptions {
  /** The variant whose values are the present ones. */
  readonly variant?: string | undefined;
  /** The program compiled for it, where that is done already; its graph is added to, so it is given once. */
  readonly compiled?: Compiled;
  readonly images?: ImageSource;
  /** Width over height of the surface; 1 where it is not told. */
  readonly aspect?: number;
  readonly budget?: Budget;
}

/** Checks that read the proof and evaluate little. */
const CHECKS: readonly Check[] = [
  valueRanges,
  imageReadings,
  imageSeams,
  stretchedNoise,
  repeatedNoise,
  unused,
  overBudget,
];

const FINE = 64;

/**
 * Examines a material without errors, in stages: the cheap proof first, then what evaluation tells. Go on to the next
 * stage for more; the last report is complete.
 */
export function* examine(program: Program, options: ExamineOptions = {}): Generator<Report, void> {
  const { variant, images, aspect = 1, budget = {}, compiled } = options;
  const proof = new Proof(program, variant, compiled);
  const { graph, values } = proof;
  const outputs = program.steps
    .filter((s) => s.kind === 'out' && graph.outputs.get(s.name) === graph.steps[s.index])
    .map((step) => ({ step, from: reached([step]) }));
  const live = reached(program.steps.filter((s) => s.kind === 'out' && !s.off));
  const blames = SHIFTS.flatMap((s) => new Tracer(proof.shifts(s)).blames(program.steps));
  const moving = movementsOf(proof, blames);
  const describe = (verdicts: AllVerdicts): Pick<Report, 'verdicts' | 'because' | 'movements' | 'periods'> => {
    const outputsClose = (step: number): boolean => {
      const into = outputs.filter(({ from }) => from.has(program.steps[step]!));
      return into.length > 0 && into.every(({ step: { name } }) => isProven(verdicts.outputs.get(name)?.verdicts.loop));
    };
    const movements = judged(moving, blames, (b) => isOpen({ program, verdicts }, b), outputsClose);
    const loop = verdicts.whole.verdicts.loop;
    const broken = blames.find((b) => b.shift === 'loop' && live.has(b.step));
    const because =
      (loop === 'open' || loop === 'unproven') && broken
        ? reasonsOf({ program }, broken)
        : closingReasons(
            { program },
            movements.filter((m) => live.has(program.steps[m.step]!)),
          );
    return {
      verdicts,
      because,
      movements,
      periods: periodsOf(proof, movements, (step) => verdicts.steps[step]!.verdicts.loop, outputsClose),
    };
  };
  const proven = provenVerdicts(proof);
  const costs = { cost: materialCost(graph), stepCosts: stepCosts(graph, live) };
  yield { stage: 'proof', ...describe(proven), ...costs, variants: [], findings: [], idle: [] };

  const verdicts = witnessedVerdicts(proof, proven, images);
  const described = describe(verdicts);
  const examined: Examined = {
    program,
    expressions: expressionsOf(program),
    proof,
    verdicts,
    blames,
    live,
    images,
    aspect,
    budget,
    ...costs,
  };
  const variants = [undefined, ...program.variants.map((v) => v.name)].map((name) => {
    if (name === variant) return { name, verdicts: verdicts.whole, cost: costs.cost };
    const other = new Proof(program, name);
    return { name, verdicts: wholeVerdicts(other, images), cost: materialCost(other.graph) };
  });
  const { movements } = described;
  const baseCloses = verdicts.whole.verdicts.loop !== 'open';
  const others = [
    ...CHECKS.flatMap((check) => check(examined)),
    ...jumpingDials(examined, movements),
    ...lostPrecision(examined, movements),
  ];
  const openOnly = baseCloses
    ? variants.flatMap((v) => (v.name !== undefined && v.verdicts.verdicts.loop === 'open' ? [v.name] : []))
    : [];
  const fixer = new Fixer(proof, blames);
  const proposes = (blame: Blame): boolean => fixer.proposed(blame).length > 0;
  const withFixes = (fixesOf: FixesOf, ofVariant: (variant: string) => readonly Fix[]): Finding[] =>
    inTextOrder([
      ...openLoops(examined, fixesOf),
      ...openTiles(examined, fixesOf, proposes),
      ...others,
      ...openVariants(examined, openOnly, ofVariant),
    ]);
  const seen: Report = {
    stage: 'seen',
    ...described,
    ...costs,
    variants,
    idle: idleDials(program, values, graph),
    findings: withFixes(
      () => undefined,
      () => [],
    ),
  };
  yield seen;

  const findings = withFixes(
    (blame) => fixer.fixesOf(blame),
    (name) => variantFixes(program, name),
  );
  const fixed: Report = { ...seen, stage: 'fixes', findings };
  yield fixed;

  const subject = { graph, dials: values.dials, images };
  const quick = measureJump(subject, QUICK);
  const cut = sawCuts(examined, quick);
  const measured: Report = { ...fixed, stage: 'measured', jump: quick, findings: inTextOrder([...findings, ...cut]) };
  yield measured;
  yield { ...measured, stage: 'done', jump: measureJump(subject, FINE) };
}

/** All of it at once. */
export function examined(program: Program, options?: ExamineOptions): Report {
  return [...examine(program, options)].at(-1)!;
}

/** What would close a variant's loop, by the first thing that breaks it. */
function variantFixes(program: Program, variant: string): Fix[] {
  const proof = new Proof(program, variant);
  const blames: Blame[] = new Tracer(proof.shifts('loop')).blames(program.steps);
  const [first] = blames;
  return (first && new Fixer(proof, blames).fixesOf(first)) ?? [];
}

/** What goes over the budget, and where most of it comes in. */
function overBudget({ program, cost, stepCosts: added, budget }: Examined): Finding[] {
  return exceeded(cost, budget).flatMap((what) => {
    const index = added.reduce((best, c, i) => (c[what] > added[best]![what] ? i : best), 0);
    const step = program.steps[index];
    return step
      ? [findingAt(say.overBudget(what, cost[what], budget[what] ?? 0, step.name), step.nameSpan, [], { step: index })]
      : [];
  });
}
