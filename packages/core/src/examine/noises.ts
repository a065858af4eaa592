import { keywordOf } from '../check/walk.ts';
import type { Step, Typed } from '../check/program.ts';
import type { Fix } from '../diagnostics/diagnostic.ts';
import { say } from '../diagnostics/wording.ts';
import { WasmEvaluator } from '../backends/wasm/run.ts';
import { evaluateFrame } from '../ir/evaluate.ts';
import { setArgument } from '../edits/call-edits.ts';
import { pathTo } from '../lang/walk.ts';
import type { CallExpression } from '../lang/tree.ts';
import { findingAt, lastStage, lineOf, type Check, type Examined, type Finding } from './finding.ts';

type Call = Extract<Typed, { kind: 'call' }>;
interface Noise {
  readonly typed: Call;
  readonly step: Step;
}

const noisesOf = ({ expressions, live }: Examined): Noise[] =>
  expressions.flatMap(({ typed, step }) =>
    typed.kind === 'call' && !typed.off && typed.operation.lattice && step && live.has(step) && !step.off
      ? [{ typed, step }]
      : [],
  );

/** The call as it is written. */
function callAt({ program }: Examined, { typed }: Noise): CallExpression | undefined {
  const call = pathTo(program.tree, typed.to).findLast((e) => e.kind === 'call' && e.to === typed.to);
  return call?.kind === 'call' && call.callee.name === typed.operation.name ? call : undefined;
}

function argumentFix(examined: Examined, noise: Noise, name: string, value: string, title: string): Fix[] {
  const call = callAt(examined, noise);
  if (!call) return [];
  const argument = call.args.find((a) => a.name?.name === name);
  const given = noise.typed.args.get(name);
  if (given && !argument) return [{ title, edits: [{ from: given.from, to: given.to, insert: value }] }];
  return [{ title, edits: setArgument(examined.program.tree.text, call, argument, name, value) }];
}

const EPSILON = 1 / 512;
/** Cells this many times as long as wide are noticed. */
const STRETCH = 2.5;

/**
 * Noise whose cells come out long on the surface: cells per axis, by the coordinate's slopes and the surface's aspect.
 */
export const stretchedNoise: Check = (examined) => {
  const { proof, aspect, images } = examined;
  const { graph, values } = proof;
  return noisesOf(examined).flatMap((noise): Finding[] => {
    const { typed, step } = noise;
    const [flow] = typed.args.values();
    const node = flow && graph.valueOf.get(flow);
    const { cells: cellsName } = typed.operation.lattice!;
    const cellsNode = graph.argumentsOf.get(typed)?.get(cellsName);
    if (node?.type !== 'f2' || !cellsNode || cellsNode.frequency === 'pixel') return [];
    const cells = evaluateFrame([cellsNode], { time: 0, dials: values.dials }).get(cellsNode) ?? [];
    const [across, down] = [cells[0] ?? 1, cells[1] ?? cells[0] ?? 1];
    const evaluator = new WasmEvaluator([node], images);
    evaluator.setFrame({ time: 0, dials: values.dials });
    // Nine places, each with its two neighbours; the middle one of what they say counts.
    const uv = new Float32Array(9 * 3 * 2);
    for (let i = 0; i < 9; i++) {
      const [u, v] = [0.17 + 0.33 * (i % 3), 0.17 + 0.33 * Math.floor(i / 3)];
      uv.set([u, v, u + EPSILON, v, u, v + EPSILON], i * 6);
    }
    const out = new Float32Array(9 * 3 * 2);
    evaluator.block({ uv }, 27, [out]);
    const per = (i: number, to: number): number =>
      Math.hypot((out[i * 6 + to * 2]! - out[i * 6]!) * across, (out[i * 6 + to * 2 + 1]! - out[i * 6 + 1]!) * down) /
      EPSILON;
    const ratios = Array.from({ length: 9 }, (_, i) => per(i, 1) / per(i, 2)).sort((a, b) => a - b);
    // Cells across over cells down, for the same length on the surface; a coordinate that stands still along one axis
    // has none.
    const ratio = ratios[4]! / aspect;
    if (!Number.isFinite(ratio) || ratio < 1e-3 || (ratio <= STRETCH && ratio >= 1 / STRETCH)) return [];
    const better = ratio > 1 ? [across, Math.round(down * ratio)] : [Math.round(across / ratio), down];
    const given = typed.args.get(cellsName);
    const literal = given === undefined || given.kind === 'constant' || given.kind === 'vector';
    const fixes =
      literal && better.every((n) => n <= 64)
        ? argumentFix(
            examined,
            noise,
            cellsName,
            better[0] === better[1] ? String(better[0]) : `(${better.join(', ')})`,
            `Make cells ${better.join(' by ')}`,
          )
        : [];
    return [
      findingAt(
        say.stretchedNoise(typed.operation.name, Math.max(ratio, 1 / ratio), ratio > 1 ? 'high' : 'wide', aspect),
        lastStage(examined.program.tree.text, typed),
        fixes,
        { lens: 'step', step: step.index },
      ),
    ];
  });
};

/**
 * Noise written twice though it is the same, and noises of one seed on like lattices, which show the same shapes twice.
 */
export const repeatedNoise: Check = (examined) => {
  const { program, proof } = examined;
  const { graph } = proof;
  const noises = noisesOf(examined);
  const findings: Finding[] = [];
  const seeds = new Set(
    noises
      .map(({ typed }) => graph.argumentsOf.get(typed)?.get(typed.operation.lattice!.seed)?.payload)
      .flatMap((p) => (Array.isArray(p) ? [p[0] as number] : [])),
  );
  const free = (): number => {
    let seed = 1;
    while (seeds.has(seed)) seed++;
    seeds.add(seed);
    return seed;
  };
  noises.forEach((noise, i) => {
    const { typed, step } = noise;
    const args = graph.argumentsOf.get(typed);
    const lattice = typed.operation.lattice!;
    const alike = noises.slice(0, i).find((o) => {
      const before = graph.argumentsOf.get(o.typed);
      return (
        o.typed.operation === typed.operation &&
        before?.get(lattice.cells) === args?.get(lattice.cells) &&
        before?.get(lattice.seed) === args?.get(lattice.seed) &&
        lattice.kinds.every((word) => keywordOf(o.typed, word) === keywordOf(typed, word))
      );
    });
    if (!alike) return;
    const line = lineOf(program, alike.typed.to);
    if (graph.valueOf.get(alike.typed) === graph.valueOf.get(typed)) {
      const named =
        alike.typed === alike.step.value &&
        !program.steps.some((s) => s.name === alike.step.name && s.index > alike.step.index && s.index <= step.index);
      const fixes =
        named && alike.step !== step
          ? [{ title: `Use ${alike.step.name}`, edits: [{ from: typed.from, to: typed.to, insert: alike.step.name }] }]
          : [];
      findings.push(
        findingAt(say.sameNoise(typed.operation.name, line), lastStage(program.tree.text, typed), fixes, {
          lens: 'step',
          step: step.index,
        }),
      );
    } else {
      const seed = free();
      findings.push(
        findingAt(
          say.sharedSeed(typed.operation.name, line),
          lastStage(program.tree.text, typed),
          argumentFix(examined, noise, lattice.seed, String(seed), `Give it seed ${String(seed)}`),
          { lens: 'step', step: step.index },
        ),
      );
    }
  });
  return findings;
};
