import { say } from '../diagnostics/wording.ts';
import type { Fix } from '../diagnostics/diagnostic.ts';
import type { Shift } from '../measure/subject.ts';
import { distanceOf, hasOwnTime, type Blame } from '../prove/blame.ts';
import { fractionIn } from '../prove/exact.ts';
import { lapsDial } from '../edits/laps-dial.ts';
import type { Movement } from '../prove/motion.ts';
import { findingAt, lastStage, lineOf, type Examined, type Finding, type FixesOf, type Reason } from './finding.ts';

const OVER: Record<Shift, string> = {
  loop: 'in one loop',
  tile_u: 'over one tile horizontally',
  tile_v: 'over one tile vertically',
};

/** Most steps between a break and its origin that are told one by one. */
const MOST_STEPS = 12;

/** The line where a value is lost, and how. */
function breakOf({ program }: Pick<Examined, 'program'>, { step, typed, shift, broken, origins }: Blame): Reason {
  const distance = broken && distanceOf(broken);
  const moved =
    distance === undefined
      ? `moves by an amount that may not be whole ${OVER[shift]}`
      : `moves by ${distance} ${OVER[shift]}`;
  const period = broken?.period && fractionIn(broken.period)?.valueOf();
  const what = typed.kind === 'call' ? typed.operation.name : step.name;
  const own = origins.some((o) => o.typed === typed);
  const last = own
    ? `${what} in ${step.name} ${moved}`
    : broken === undefined
      ? `${step.name} grows without repeating`
      : broken.by === 'clamp'
        ? `${what} in ${step.name} reads a clamped image past its edge, and its input ${moved}`
        : broken.by === 'shape'
          ? `${what} in ${step.name} never repeats ${OVER[shift]}`
          : `${what} in ${step.name} repeats every ${String(period ?? 1)}, but its input ${moved}`;
  return { line: lineOf(program, typed.to), text: last };
}

/** The lines from where a value is lost to what set it moving. */
export function reasonsOf(examined: Pick<Examined, 'program'>, blame: Blame): Reason[] {
  const { typed, shift, origins, path } = blame;
  const { program } = examined;
  const { text } = program.tree;
  const line = (at: number): number => lineOf(program, at);
  const reasons = [breakOf(examined, blame)];
  const started = new Set(origins.map((o) => o.step));
  const between = path.filter((s) => !started.has(s));
  const told = between.length > MOST_STEPS ? between.slice(0, MOST_STEPS - 1) : between;
  for (const s of told) reasons.push({ line: line(s.nameSpan.from), text: `passes through ${s.name}` });
  if (told.length < between.length) {
    const { name, nameSpan } = between.at(-1)!;
    const count = String(between.length - told.length);
    reasons.push({ line: line(nameSpan.from), text: `and through ${count} more steps, up to ${name}` });
  }
  for (const o of origins) {
    // A place moves by itself from tile to tile; what moves with time has no part in that.
    if (o.typed === typed || o.typed.kind === 'built-in' || (shift !== 'loop' && hasOwnTime(o.typed))) continue;
    const { from, to } = lastStage(text, o.typed);
    const does = shift === 'loop' ? 'starts the motion' : 'sets the coordinates';
    reasons.push({
      line: line(o.typed.to),
      text: `${o.step.name} ${does}: ${text.slice(from, to).replace(/\s+/g, ' ')}`,
    });
  }
  return reasons;
}

/** Why a closed loop closes: every motion, by its line. */
export function closingReasons({ program }: Pick<Examined, 'program'>, movements: readonly Movement[]): Reason[] {
  return movements.map(({ step, kind, laps, to }) => {
    const { name } = program.steps[step]!;
    const how =
      laps === undefined
        ? 'returns to its start'
        : Number.isInteger(laps)
          ? `makes ${String(Math.abs(laps))} whole ${Math.abs(laps) === 1 ? 'period' : 'periods'}`
          : `makes ${String(Number(Math.abs(laps).toPrecision(4)))} periods, made whole by what follows`;
    return { line: lineOf(program, to), text: `${kind} in ${name} ${how}` };
  });
}

/** Where the loop does not close, with what would close it. */
export function openLoops(examined: Examined, fixesOf: FixesOf): Finding[] {
  const { program, verdicts, blames, live } = examined;
  const verdict = verdicts.whole.verdicts.loop;
  if (verdict === 'always') return [];
  if (verdict === 'present') return presentLoops(examined);
  return blames
    .filter((b) => b.shift === 'loop' && live.has(b.step))
    .map((blame) => {
      const [origin = blame] = blame.origins;
      const said = isOpen(examined, blame) ? openWords(blame) : say.loopUnproven(origin.step.name);
      return findingAt(said, lastStage(program.tree.text, origin.typed), fixesOf(blame) ?? [], {
        lens: 'loop',
        step: blame.step.index,
        because: reasonsOf(examined, blame),
      });
    });
}

/** Why a loop is open, by what broke it. */
function openWords({ typed, step, broken, origins }: Blame): ReturnType<typeof say.loopOpen> {
  const [origin = { step, typed }] = origins;
  const image = typed.kind === 'call' ? typed.args.get('image') : undefined;
  if (broken?.by === 'clamp' && image?.kind === 'image') return say.scrollsPastEdge(origin.step.name, image.image.name);
  const distance = broken && distanceOf(broken);
  const steps = origin.typed.kind === 'call' && origin.typed.operation.timeStep !== undefined;
  return steps && distance !== undefined
    ? say.holdOpen(origin.step.name, distance)
    : say.loopOpen(origin.step.name, distance);
}

/** Whether a difference was seen in an output that a broken step goes into. */
export function isOpen({ program, verdicts }: Pick<Examined, 'program' | 'verdicts'>, { step, shift }: Blame): boolean {
  const own = verdicts.steps[step.index]?.verdicts[shift];
  const outputs = program.steps.filter((s) => s.kind === 'out' && !s.off);
  return own === 'open' && (outputs.length === 0 || verdicts.whole.verdicts[shift] === 'open');
}

/** Dials that close the loop as they are set, but not at each of their settings. */
function presentLoops({ program, proof }: Examined): Finding[] {
  const binding = proof.binding('loop');
  const [first] = binding;
  if (!first) return [];
  return [
    findingAt(
      say.loopPresent(binding.map((d) => d.name)),
      first.nameSpan,
      binding.flatMap((d) => lapsDial(program, d)),
      { lens: 'loop' },
    ),
  ];
}

/** Variants whose loop is open. */
export function openVariants(
  { program }: Pick<Examined, 'program'>,
  open: readonly string[],
  fixesOf: (variant: string) => readonly Fix[],
): Finding[] {
  return program.variants
    .filter((v) => open.includes(v.name))
    .map((v) => findingAt(say.variantOpen(v.name), v.span, fixesOf(v.name), { lens: 'loop' }));
}

/**
 * Where a material does not meet itself a tile on: each place that can be fixed, and one word for all that has edges
 * by nature. `proposes` tells whether a break may be fixed where that is not proven yet.
 */
export function openTiles(examined: Examined, fixesOf: FixesOf, proposes: (blame: Blame) => boolean): Finding[] {
  const { program, verdicts, blames, live } = examined;
  const shifts = (['tile_u', 'tile_v'] as const).filter((s) => verdicts.whole.verdicts[s] === 'open');
  if (shifts.length === 0) return [];
  const places = new Map<object, { blame: Blame; shifts: Shift[]; fixes: Fix[]; mayMend: boolean }>();
  for (const blame of blames.filter((b) => shifts.some((s) => s === b.shift) && live.has(b.step))) {
    const known = places.get(blame.typed);
    const proven = fixesOf(blame);
    const fixes = proven ?? [];
    const mayMend = proven ? proven.length > 0 : proposes(blame);
    if (known) {
      known.mayMend ||= mayMend;
      known.shifts.push(blame.shift);
      known.fixes.push(...fixes.filter((m) => !known.fixes.some((k) => k.title === m.title)));
    } else places.set(blame.typed, { blame, shifts: [blame.shift], fixes: [...fixes], mayMend });
  }
  const all = [...places.values()];
  const fixable = all.filter((p) => p.mayMend);
  const findings = fixable.map((p) => {
    const [origin = p.blame] = p.blame.origins;
    return findingAt(say.tileOpen(p.blame.step.name, p.shifts), lastStage(program.tree.text, origin.typed), p.fixes, {
      lens: 'tiling',
      step: p.blame.step.index,
      because: reasonsOf(examined, p.blame),
    });
  });
  const rest = all.filter((p) => !p.mayMend);
  const [first] = rest;
  if (first) {
    const lines = [
      ...new Map(
        rest.map(({ blame }) => breakOf(examined, blame)).map((r) => [`${String(r.line)} ${r.text}`, r]),
      ).values(),
    ];
    findings.push(
      findingAt(
        say.edges(shifts, [...new Set(rest.map((r) => r.blame.step.name))]),
        lastStage(program.tree.text, first.blame.typed),
        [],
        {
          lens: 'tiling',
          because: lines,
        },
      ),
    );
  }
  return findings;
}
