import { readFileSync } from 'node:fs';
import { expect, it } from '@jest/globals';
import {
  compile,
  findWitnesses,
  Proof,
  provenVerdicts,
  SHIFTS,
  testGrid,
  WasmEvaluator,
  type Dial,
  type Graph,
  type Node,
  type Shift,
  type Value,
  type Witness,
} from '../src/index.ts';
import type { Asked } from '../src/prove/proof.ts';
import { readImage } from '../src/backends/reference/images.ts';
import { pixelInput, valueOf, zeros } from '../src/ir/evaluate.ts';
import { finite } from '../src/ir/kinds.ts';
import { inOrder, widthOf } from '../src/ir/node.ts';
import { DISPLACEMENTS } from '../src/measure/subject.ts';
import { componentsOf } from '../src/ops/value-type.ts';
import { CLOSED_WITHIN } from '../src/measure/witness.ts';
import { materialOf, randomOf } from './random-materials.ts';

type Dials = ReadonlyMap<string, Value>;
const grid = testGrid();

/** Kinds whose results are rounded. Of whole numbers they are exact. */
const ROUNDED: ReadonlySet<Node['kind']> = new Set([
  'add',
  'sub',
  'mul',
  'div',
  'mod',
  'fract',
  'sqrt',
  'exp',
  'log',
  'sin',
  'cos',
  'pow',
  'atan2',
  'mix',
  'dot',
]);

/** As the reference computes it, but what is rounded is moved by up to a few roundings, each value by its own. */
function nudged(root: Node, uv: readonly [number, number], time: number, dials: Dials, seed: number): Value {
  const random = randomOf(seed);
  const values = new Map<Node, Value>();
  const of = (node: Node): Value => values.get(node) ?? zeros(node);
  for (const node of inOrder([root])) {
    const isPixel = node.frequency === 'pixel';
    const round = isPixel ? Math.fround : Number;
    const by = seed === 0 ? 0 : (random() * 2 - 1) * (isPixel ? 2 ** -22 : 2 ** -50) * 2;
    const moved = (x: number): number => round(x + x * by);
    if (node.kind === 'uniform')
      values.set(node, node.payload === 'time' ? [time] : (dials.get(node.payload.dial) ?? zeros(node)));
    else if (node.kind === 'input') values.set(node, pixelInput({ uv }, node.payload).map(moved));
    else if (node.kind === 'sample') {
      const [u = 0, v = 0] = of(node.args[0]!);
      values.set(node, readImage(grid, node.payload, u, v));
    } else {
      const args = node.args.map(of);
      const value = valueOf(node, args, round);
      const isExact = !ROUNDED.has(node.kind) || !node.type.startsWith('f') || args.flat().every(Number.isInteger);
      values.set(node, isExact ? value : value.map(moved));
    }
  }
  return of(root).map(finite);
}

/** Roundings that are tried for one place. */
const TRIES = 24;

/**
 * A claim is about exact numbers. Where a hard step, such as that of `floor`, lies within a few roundings of a value,
 * pictures may fall on either side of it: what differs there, and by another rounding does not, is no false claim.
 */
function isFalse(
  node: Node,
  wraps: boolean,
  shift: Shift,
  { uv, time }: Witness,
  dials: Dials,
  seconds: number,
): boolean {
  const { loops, uv: moved } = DISPLACEMENTS[shift];
  const there: [number, number] = [uv[0] + moved[0], uv[1] + moved[1]];
  const before = Array.from({ length: TRIES }, (_, i) => nudged(node, uv, time, dials, i));
  const after = Array.from({ length: TRIES }, (_, i) => nudged(node, there, time + loops * seconds, dials, i * 7 + 3));
  // How far rounding alone moves a component, here or there: values that blow their last bits up say no more than that.
  const spread = before[0]!.map((_, c) =>
    Math.max(
      ...[before, after].map((of) => Math.max(...of.map((v) => v[c]!)) - Math.min(...of.map((v) => v[c]!))),
      CLOSED_WITHIN,
    ),
  );
  const near = (a: Value, b: Value): boolean =>
    a.every((x, c) => {
      const apart = Math.abs(x - b[c]!);
      return (wraps ? Math.abs(apart - Math.round(apart)) : apart) <= spread[c]!;
    });
  return !before.some((a) => after.some((b) => near(a, b)));
}

/** A setting within the ranges and steps of dials. */
function settingOf(dials: readonly Dial[], random: () => number): Dials {
  return new Map(
    dials.map(({ name, value, low, high, step }) => [
      name,
      value.map((v) => {
        const [from, to] = [low ?? (value.length > 1 ? 0 : v), high ?? (value.length > 1 ? 1 : v)];
        // Its ends and nothing are where claims go wrong.
        const at =
          random() < 0.2
            ? random() < 0.5
              ? from
              : to
            : random() < 0.15 && from <= 0 && to >= 0
              ? 0
              : from + random() * (to - from);
        return step ? Math.round(at / step) * step : at;
      }),
    ]),
  );
}

/** Of what was not seen to differ. */
interface Returning {
  returning: number;
  unproven: number;
}
interface Count {
  claims: number;
  readonly steps: Returning;
  readonly outputs: Returning;
  readonly faults: string[];
}

/** How large a value gets, of either sign. */
function greatest(node: Node, dials: Dials): number {
  const evaluator = new WasmEvaluator([node]);
  evaluator.setFrame({ time: 0.3, dials });
  return evaluator.picture(16, 16)[0]!.reduce((most, v) => Math.max(most, Math.abs(v)), 0);
}

function judge(seed: number, count: Count): void {
  const text = materialOf(seed);
  const compiled = compile(text);
  if (!compiled.ok) return;
  const { program } = compiled;
  const proof = new Proof(program);
  program.steps.forEach((s, i) => {
    if (s.type !== 'unknown' && widthOf(proof.graph.steps[i]!.type) !== componentsOf(s.type))
      count.faults.push(
        `seed ${String(seed)}: ${s.name} is a ${s.type}, but as wide as ${proof.graph.steps[i]!.type}\n${text}`,
      );
  });
  const proven = provenVerdicts(proof);
  const random = randomOf(seed + 1);
  const claims = [
    ...program.steps.map((s) => ({
      name: s.name,
      asked: s.index as Asked,
      node: (g: Graph) => g.steps[s.index]!,
      wraps: s.type === 'vec2',
      verdicts: proven.steps[s.index]!.verdicts,
    })),
    ...[...proven.outputs].map(([name, { verdicts }]) => ({
      name: `out ${name}`,
      asked: name as Asked,
      node: (g: Graph) => g.outputs.get(name)!,
      wraps: false,
      verdicts,
    })),
  ];
  const { seconds } = program.loop;
  const look = (graph: Graph, dials: Dials, isPresent: boolean): void => {
    const found = findWitnesses(
      claims.map((c) => ({ node: c.node(graph), wraps: c.wraps })),
      seconds,
      dials,
    );
    claims.forEach(({ name, asked, node, wraps, verdicts }, i) => {
      for (const shift of SHIFTS) {
        const witness = found[i]![shift];
        const distance = isPresent ? (proof.distance(asked, shift) ?? 0) : 0;
        // In floats a value that is a million times larger does not move.
        if (distance > CLOSED_WITHIN && !witness && greatest(node(graph), dials) < distance * 1e6)
          count.faults.push(
            `seed ${String(seed)}: ${name} is to move by ${String(distance)} by ${shift}, but does not\n${text}`,
          );
        const claimed = verdicts[shift] === 'always' || (isPresent && verdicts[shift] === 'present');
        if (isPresent) {
          const kind = name.startsWith('out ') ? 'outputs' : 'steps';
          if (!witness) count[kind].returning++;
          if (!witness && !claimed) count[kind].unproven++;
        }
        if (!claimed) continue;
        count.claims++;
        if (witness && isFalse(node(graph), wraps, shift, witness, dials, seconds))
          count.faults.push(
            `seed ${String(seed)}: ${name} is ${verdicts[shift]} by ${shift}, but differs by ${String(witness.difference)} at ${witness.uv.join()}, ${String(witness.time)} s with ${JSON.stringify([...dials])}\n${text}`,
          );
      }
    });
  };
  look(proof.graph, proof.values.dials, true);
  const other = settingOf(program.dials, random);
  const switches = new Map(program.switches.map((s) => [s.name, random() < 0.5]));
  look(compile(program, { values: { dials: other, switches } }).graph, other, false);
}

it('no claim over materials of all operations is false, in the present setting and in others', () => {
  const runs = Number(process.env.ESTELA_CLAIM_RUNS ?? 150);
  const nothing = (): Returning => ({ returning: 0, unproven: 0 });
  const count: Count = { claims: 0, steps: nothing(), outputs: nothing(), faults: [] };
  const first = Number(process.env.ESTELA_CLAIM_FIRST ?? 1);
  for (let seed = first; seed < first + runs && count.faults.length < 8; seed++) judge(seed, count);
  expect(count.faults).toEqual([]);
  expect(count.claims).toBeGreaterThan(runs);
  for (const { unproven, returning } of [count.steps, count.outputs]) expect(unproven / returning).toBeLessThan(0.12);
  if (process.env.ESTELA_CLAIM_RUNS) console.log(JSON.stringify(count));
}, 3_600_000);

interface FalseClaim {
  readonly text: string;
  /** An output, or a step by its name and index. */
  readonly claims: string;
  readonly dials: Readonly<Record<string, Value>> | null;
}
const once = JSON.parse(
  readFileSync(new URL('conformance/false-claims.json', import.meta.url), 'utf8'),
) as readonly FalseClaim[];

it.each(once.map((c, i) => ({ ...c, i })))(
  'what was falsely claimed once, $i: $claims, is claimed no more',
  ({ text, claims, dials }) => {
    const { program, values } = compile(text);
    const given = new Map([...values.dials, ...Object.entries(dials ?? {})]);
    const switches = new Map(
      program.switches.map((s) => [s.name, given.get(s.name)?.[0] === undefined ? s.on : given.get(s.name)![0] !== 0]),
    );
    const proof = new Proof(program);
    const proven = provenVerdicts(proof);
    const index = Number(/#(\d+)$/.exec(claims)?.[1]);
    const output = /^out (\w+)/.exec(claims)?.[1];
    const verdicts = (output === undefined ? proven.steps[index] : proven.outputs.get(output))!.verdicts;
    const { graph } = compile(program, { values: { dials: given, switches } });
    const node = output === undefined ? graph.steps[index]! : graph.outputs.get(output)!;
    const wraps = output === undefined && program.steps[index]!.type === 'vec2';
    const [found] = findWitnesses([{ node, wraps }], program.loop.seconds, given);
    for (const shift of SHIFTS) {
      const witness = found![shift];
      const claimed = verdicts[shift] === 'always' || (dials === null && verdicts[shift] === 'present');
      if (claimed && witness)
        expect([shift, isFalse(node, wraps, shift, witness, given, program.loop.seconds)]).toEqual([shift, false]);
    }
  },
);

it('what no rounding explains is false, and a step within rounding is not', () => {
  const differs = (value: string, shift: Shift, dials: Dials = new Map()): (boolean | undefined)[] => {
    const { graph } = compile(`loop 4s at 30fps\ndial n = 2 in 0..6 by 1\ns = ${value}\nout color = 1\n`);
    const node = graph.steps[0]!;
    const [found] = findWitnesses([{ node }], 4, dials);
    const witness = found![shift];
    return [witness !== undefined, witness && isFalse(node, false, shift, witness, dials, 4)];
  };
  const none = new Map([['n', [0]]]);
  expect(differs('uv.x', 'tile_u')).toEqual([true, true]);
  expect(differs('saw(0.3/s)', 'loop')).toEqual([true, true]);
  expect(differs('(uv |> pixelate(n)).x - uv.x', 'tile_u', none)).toEqual([true, true]);
  expect(differs('uv |> value(cells: 5, evolve: 0.3/s)', 'loop')).toEqual([true, true]);
  // A third of three times a third is a whole number, or just below one.
  expect(differs('(uv |> pixelate(3) |> tile(2) |> flip(u) |> pixelate(3)).x', 'loop')).toEqual([false, undefined]);
  expect(differs('((uv |> pixelate(3)).x * 3 - 0.5) / 3 * 3 |> fract()', 'tile_u')[1]).not.toBe(true);
});
