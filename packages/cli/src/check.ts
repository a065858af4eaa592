import {
  compile,
  dialsInUnits,
  examined,
  lineAndColumn,
  SHIFTS,
  type Budget,
  type Finding,
  type Report,
  type Verdicts,
} from '@estela/core';
import { printError } from './options.ts';
import { loadMaterial, printed, type LoadedMaterial } from './material.ts';
import { say } from './wording.ts';

interface Checked extends LoadedMaterial {
  /** Of a material without errors. */
  readonly report: Report | undefined;
  readonly findings: readonly Finding[];
}

/** Verdicts as printed; `more` stands beside the loop's. */
function verdictsAsJson({ verdicts, witnesses }: Verdicts, more: object = {}): Record<string, object> {
  return Object.fromEntries(
    SHIFTS.map((s) => [
      s,
      { ...(s === 'loop' ? more : {}), verdict: verdicts[s], ...(witnesses[s] ? { witness: witnesses[s] } : {}) },
    ]),
  );
}

const rounded = (v: number): number => Number(v.toPrecision(6));

/** What `check --json` prints of one file. */
function asJson(file: string, { text, program, findings, report }: Checked): object {
  const { loop, steps } = program;
  const length = { seconds: loop.seconds, fps: loop.fps, frames: loop.frames };
  const because = report?.because.map(({ line, text: words }) => ({ line, text: words }));
  return {
    file,
    ok: findings.every((d) => d.severity !== 'error'),
    diagnostics: findings.map((d) => ({
      ...d,
      ...lineAndColumn(text, d.from),
      ...(d.step === undefined ? {} : { step: steps[d.step]?.name }),
    })),
    loop: length,
    ...(report ? verdictsAsJson(report.verdicts.whole, { ...length, because }) : {}),
    ...(report?.jump ? { jump: rounded(report.jump.ratio) } : {}),
    outputs: report ? [...report.verdicts.outputs].map(([channel, v]) => ({ channel, ...verdictsAsJson(v) })) : [],
    steps: report
      ? steps.map((s) => ({
          step: s.name,
          line: lineAndColumn(text, s.nameSpan.from).line,
          ...verdictsAsJson(report.verdicts.steps[s.index]!),
          cost: report.stepCosts[s.index],
        }))
      : [],
    variants: program.variants.map((v) => {
      const found = report?.variants.find((o) => o.name === v.name);
      return { name: v.name, ...(found ? { ...verdictsAsJson(found.verdicts), cost: found.cost } : {}) };
    }),
    motion: (report?.movements ?? []).map((m) => ({
      step: steps[m.step]?.name,
      line: lineAndColumn(text, m.to).line,
      kind: m.kind,
      ...(m.laps === undefined
        ? {}
        : { period_seconds: m.laps === 0 ? null : rounded(loop.seconds / Math.abs(m.laps)), laps: rounded(m.laps) }),
      closes: m.state === 'closes' || m.state === 'later',
    })),
    dials: dialsInUnits(program),
    ...(report ? { cost: report.cost } : {}),
  };
}

/** What is open, in the base and in variants, as sentences. */
function openSentences({ report }: Checked): string[] {
  if (!report) return [];
  const named: readonly (readonly [string | undefined, Verdicts])[] = [
    [undefined, report.verdicts.whole],
    ...report.variants.flatMap((v) => (v.name === undefined ? [] : [[v.name, v.verdicts] as const])),
  ];
  return named.flatMap(([variant, { verdicts }]) =>
    SHIFTS.filter((s) => verdicts[s] === 'open').map((s) => say.open(variant, s)),
  );
}

async function checkFile(file: string, sources: string | undefined, budget: Budget): Promise<Checked> {
  const loaded = await loadMaterial(file, sources);
  const compiled = loaded.program.ok ? compile(loaded.program) : undefined;
  const own: Finding[] = [...loaded.diagnostics, ...(compiled?.graph.diagnostics ?? [])];
  if (own.some((d) => d.severity === 'error')) return { ...loaded, report: undefined, findings: own };
  const report = examined(loaded.program, {
    ...(compiled ? { compiled } : {}),
    images: (slot) => loaded.images.get(slot.name),
    budget,
  });
  return { ...loaded, report, findings: [...own, ...report.findings].sort((a, b) => a.from - b.from) };
}

export interface CheckArguments {
  readonly sources?: string;
  readonly json?: boolean;
  readonly strict?: boolean;
  readonly budget?: Budget;
}

/**
 * Checks files one after the other; 1 where any has an error, or with `strict` one that is open; 2 where one cannot be
 * read.
 */
export async function checkFiles(files: readonly string[], options: CheckArguments): Promise<number> {
  let code = 0;
  for (const file of files) {
    try {
      const checked = await checkFile(file, options.sources, options.budget ?? {});
      const open = openSentences(checked);
      if (checked.findings.some((d) => d.severity === 'error') || (options.strict && open.length > 0))
        code = Math.max(code, 1);
      if (options.json) {
        console.log(JSON.stringify(asJson(file, checked)));
        continue;
      }
      for (const d of checked.findings) {
        console.log(printed(file, checked.text, d));
        for (const { line, text } of d.because ?? []) console.log(`    line ${String(line)}: ${text}`);
        if (d.tileable) console.log(`    fix: Make ${d.tileable.source} tileable`);
        for (const { title } of d.fixes) console.log(`    fix: ${title}`);
      }
      for (const words of open) console.log(`${file}: ${options.strict ? 'error' : 'note'}: ${words}`);
      if (checked.findings.length + open.length === 0) console.log(say.noProblems(file));
    } catch (error) {
      printError(error);
      code = 2;
    }
  }
  return code;
}
