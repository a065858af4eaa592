import type { Program } from '../check/program.ts';
import { settingValues } from '../check/values.ts';
import { lower } from '../ir/lower.ts';
import { say } from '../diagnostics/wording.ts';
import type { Mend } from '../diagnostics/diagnostic.ts';
import type { ImageSource } from '../image/pixels.ts';
import { measureJump, type Jump } from '../measure/jump.ts';
import { reached, Tracer, type Blame } from '../prove/blame.ts';
import { materialCost, stepCosts, type Budget, type Cost } from '../prove/cost.ts';
import { Mender } from '../prove/mends.ts';
import { movementsOf, periodsOf, type Movement, type StepPeriod } from '../prove/motion.ts';
import { Proof, SHIFTS } from '../prove/proof.ts';
import { materialVerdicts, provenVerdicts, witnessedVerdicts, type AllVerdicts, type Verdicts } from '../prove/verdicts.ts';
import { QUICK, sawCuts } from './cuts.ts';
import { jumpingDials, lostPrecision } from './dials.ts';
import { found, inTextOrder, type Check, type Examined, type Finding, type Reason } from './finding.ts';
import { imageReadings } from './images.ts';
import { closingReasons, isOpen, openLoops, openTiles, openVariants, reasonsOf } from './loops.ts';
import { repeatedNoise, stretchedNoise } from './noises.ts';
import { unused } from './unused.ts';
import { valueRanges } from './values.ts';

/** What is known of a material so far: each stage says more than the one before. */
export interface Report {
  /** `proof`: what is proven; `seen`: with witnesses and findings; `measured`: with the jump; `done`: with the jump measured finely. */
  readonly stage: 'proof' | 'seen' | 'measured' | 'done';
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
  readonly jump?: Jump;
}

export interface ExamineOptions {
  /** The variant whose values are the present ones. */
  readonly variant?: string;
  readonly images?: ImageSource;
  /** Width over height of the surface; 1 where it is not told. */
  readonly aspect?: number;
  readonly budget?: Budget;
}

/** Checks that read the proof and evaluate little. */
const CHECKS: readonly Check[] = [openLoops, openTiles, valueRanges, imageReadings, stretchedNoise, repeatedNoise, unused, overBudget];

const FINE = 64;

/**
 * Examines a material without errors, in stages: the cheap proof first, then what evaluation tells. Go on to the next stage for more;
 * the last report is complete.
 */
export function* examine(program: Program, options: ExamineOptions = {}): Generator<Report, void> {
  const { variant, images, aspect = 1, budget = {} } = options;
  const proof = new Proof(program, variant);
  const { graph, values } = proof;
  const live = reached(program.steps.filter((s) => s.kind === 'out' && !s.off));
  const blames = SHIFTS.flatMap((s) => new Tracer(proof.shifts(s)).blames(program.steps));
  const describe = (verdicts: AllVerdicts): Pick<Report, 'verdicts' | 'because' | 'movements' | 'periods'> => {
    const movements = movementsOf(proof, blames, (b) => isOpen({ program, verdicts }, b));
    const loop = verdicts.whole.verdicts.loop;
    const broken = blames.find((b) => b.shift === 'loop' && live.has(b.step));
    const because =
      (loop === 'open' || loop === 'unproven') && broken
        ? reasonsOf({ program }, broken)
        : closingReasons(
            { program },
            movements.filter((m) => live.has(program.steps[m.step]!)),
          );
    return { verdicts, because, movements, periods: periodsOf(proof, movements, (step) => verdicts.steps[step]!.verdicts.loop) };
  };
  const proven = provenVerdicts(proof);
  const base = { cost: materialCost(graph), stepCosts: stepCosts(graph, live), variants: [], findings: [] };
  yield { stage: 'proof', ...describe(proven), ...base };

  const verdicts = witnessedVerdicts(proof, proven, images);
  const described = describe(verdicts);
  const examined: Examined = { program, proof, verdicts, blames, live, images, aspect, budget };
  const variants = [undefined, ...program.variants.map((v) => v.name)].map((name) => ({
    name,
    verdicts: name === variant ? verdicts.whole : materialVerdicts(program, name, images),
    cost: name === variant ? materialCost(graph) : materialCost(lower(program, settingValues(program, name).switches)),
  }));
  const { movements } = described;
  const baseCloses = verdicts.whole.verdicts.loop !== 'open';
  const findings = [
    ...CHECKS.flatMap((check) => check(examined)),
    ...jumpingDials(examined, movements),
    ...lostPrecision(examined, movements),
    ...(baseCloses
      ? openVariants(
          examined,
          (v) => variants.find((o) => o.name === v)!.verdicts.verdicts.loop,
          (v) => variantMends(program, v),
        )
      : []),
  ];
  const seen: Report = { stage: 'seen', ...described, ...base, variants, findings: inTextOrder(findings) };
  yield seen;

  const quick = measureJump(graph, values.dials, QUICK, images);
  const cut = sawCuts(examined, quick);
  const measured: Report = { ...seen, stage: 'measured', jump: quick, findings: inTextOrder([...findings, ...cut]) };
  yield measured;
  yield { ...measured, stage: 'done', jump: measureJump(graph, values.dials, FINE, images) };
}

/** All of it at once. */
export function examined(program: Program, options?: ExamineOptions): Report {
  return [...examine(program, options)].at(-1)!;
}

/** What would close a variant's loop, by the first thing that breaks it. */
function variantMends(program: Program, variant: string): Mend[] {
  const proof = new Proof(program, variant);
  const blames: Blame[] = new Tracer(proof.shifts('loop')).blames(program.steps);
  const [first] = blames;
  return first ? new Mender(proof).mendsOf(first) : [];
}

/** What goes over the budget, and where most of it comes in. */
function overBudget({ program, proof, live, budget }: Examined): Finding[] {
  const cost = materialCost(proof.graph);
  const added = stepCosts(proof.graph, live);
  return (['operations', 'reads', 'samplers'] as const).flatMap((what) => {
    const most = budget[what];
    if (most === undefined || cost[what] <= most) return [];
    const index = added.reduce((best, c, i) => (c[what] > added[best]![what] ? i : best), 0);
    const step = program.steps[index];
    return step ? [found(say.overBudget(what, cost[what], most, step.name), step.nameSpan, [], { step: index })] : [];
  });
}
