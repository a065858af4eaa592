import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, it } from '@jest/globals';
import { Reference } from '../src/backends/reference/evaluate.ts';
import { compileOrThrow } from '../src/compile.ts';
import { GltfPlanner, type SlotPlan } from '../src/exchange/gltf/slots.ts';
import { between, matrixOf } from '../src/exchange/gltf/transform.ts';
import type { Graph } from '../src/lower/lower.ts';

const DEMO = join(import.meta.dirname, '../../../demo');
const texts = ['materials', 'starts'].flatMap((folder) =>
  readdirSync(join(DEMO, folder))
    .filter((name) => name.endsWith('.wake'))
    .map((name) => [name, readFileSync(join(DEMO, folder, name), 'utf8')] as const),
);

/** Where a player reads a texture at a moment, from the keys alone. */
function read({ motion }: SlotPlan, time: number, [u, v]: readonly [number, number]): readonly [number, number] {
  if (!motion) return [u, v];
  const next = motion.keys.findIndex((key) => key.time > time);
  const [one, two] = [motion.keys[next - 1]!, motion.keys[next]!];
  const rows = matrixOf(between(one.transform, two.transform, (time - one.time) / (two.time - one.time)));
  return rows.map(([a, b, c]) => a * u + b * v + c) as unknown as readonly [number, number];
}

/** How far a slot, as a player shows it, is from the outputs themselves, at most. */
function apart(graph: Graph, plan: SlotPlan, dials: ReadonlyMap<string, readonly number[]>): number {
  const truth = new Reference(plan.roots);
  const picture = new Reference(plan.picture);
  const { seconds } = graph.program.loop;
  let most = 0;
  for (let i = 0; i < 24; i++) {
    const frame = { time: seconds * ((i * 0.61803) % 1), dials };
    const uv = [(i * 0.7548776) % 1, (i * 0.5698402) % 1] as const;
    truth.setFrame(frame);
    picture.setFrame(frame);
    const factors = plan.factorsAt(frame.time);
    const shown = picture.pixel({ uv: read(plan, frame.time, uv) }).flat();
    for (const [k, wanted] of truth.pixel({ uv }).flat().entries())
      most = Math.max(most, Math.abs(shown[k]! * factors[k]! - wanted));
  }
  return most;
}

it('what is called exact or keyed shows what the material puts out, in all of the demo and the starts', () => {
  const said = new Map<string, string>();
  for (const [name, text] of texts) {
    const { graph, values } = compileOrThrow(text);
    for (const plan of new GltfPlanner(graph, values.dials).plan().slots) {
      said.set(`${name} ${plan.slot}`, plan.fidelity);
      if (plan.fidelity !== 'exact' && plan.fidelity !== 'keyed') {
        expect([name, plan.slot, plan.why]).toEqual([name, plan.slot, expect.stringMatching(/^[A-Z].*\.$/)]);
        continue;
      }
      // A sharp edge that is read a hair beside its place differs by all of itself.
      const off = apart(graph, plan, values.dials);
      expect([name, plan.slot, off < 2 / 255, off]).toEqual([name, plan.slot, true, off]);
    }
  }
  for (const name of ['marching-signs', 'pixel-tiles', 'slanted-rain', 'steady-rise', 'glasshouse-pane', 'twin-shells'])
    expect([name, said.get(`${name}.wake baseColor`)]).toEqual([name, 'exact']);
  expect(said.get('whirl-drain.wake normal')).toBe('exact');
  expect(said.get('turning-vane.wake baseColor')).toBe('keyed');
  expect(said.get('spore-shells.wake baseColor')).toBe('left out');
  expect(said.get('ember-cloud.wake baseColor')).toBe('baked');
});

it.each([
  ['a slope that leaves its square', 'out color = (uv |> pan(1 lap)).x', 'baked', 'does not tile'],
  [
    'a shape that stays within it',
    'out color = uv |> offset(swing(-0.1, 0.1, 1 lap)) |> disc(0.2)',
    'keyed',
    undefined,
  ],
  ['a flash', 'out color = (uv |> fbm(4)) * (phase |> rise(0.1, 0.2))', 'keyed', undefined],
])('%s', (_, line, fidelity, why) => {
  const { graph, values } = compileOrThrow(`loop 2s at 30fps\n${line}\n`);
  const [slot] = new GltfPlanner(graph, values.dials).plan().slots;
  expect([slot!.fidelity, slot!.why]).toEqual([fidelity, why && expect.stringContaining(why)]);
});
