import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { compileOrThrow } from '../src/compile.ts';
import { Reference } from '../src/backends/reference/evaluate.ts';
import { texturingOf, type Texturing } from '../src/exchange/gltf/texturing.ts';
import { evaluateFrame } from '../src/ir/evaluate.ts';
import type { Graph } from '../src/lower/lower.ts';

const HEAD = 'loop 2s at 30fps\nimage a = "a.png" repeat linear color\nimage c = "c.png" clamp linear color\n';
const DIALS = new Map<string, readonly number[]>();

function read(text: string): { graph: Graph; found: Texturing } {
  const { graph, values } = compileOrThrow(HEAD + text);
  for (const [name, value] of values.dials) DIALS.set(name, value);
  return { graph, found: texturingOf(graph, [...graph.outputs.values()], values.dials) };
}

/** How far what a texturing shows is from what is put out, at most, at so many places and moments. */
function apart({ graph, found }: ReturnType<typeof read>, count = 40): number {
  if (found.kind !== 'moving' && found.kind !== 'still') throw new Error(found.why);
  const truth = new Reference([...graph.outputs.values()]);
  const picture = new Reference(found.picture);
  const rows = found.kind === 'moving' ? found.motion.rows.flatMap(({ u, v, c }) => [u, v, c]) : [];
  let most = 0;
  for (let i = 0; i < count; i++) {
    const time = (i * 0.61803) % 2;
    const uv = [(i * 0.7548776) % 1, (i * 0.5698402) % 1] as const;
    const frame = { time, dials: DIALS };
    truth.setFrame(frame);
    picture.setFrame(frame);
    const wanted = truth.pixel({ uv }).flat();
    const nodes = evaluateFrame([...rows, ...found.factors], frame);
    const [a, b, c, d, e, f] = rows.map((node) => nodes.get(node)![0]!);
    const at = found.kind === 'moving' ? [a! * uv[0] + b! * uv[1] + c!, d! * uv[0] + e! * uv[1] + f!] : uv;
    const shown = picture.pixel({ uv: at }).flat();
    for (const [k, value] of shown.entries())
      most = Math.max(most, Math.abs(value * nodes.get(found.factors[k]!)![0]! - wanted[k]!));
  }
  return most;
}

describe('what a texture and its transform can say', () => {
  it.each([
    ['a still image', 'out color = uv |> tile(3) |> sample(a)', 'still'],
    ['a scroll', 'out color = uv |> tile(2, 3) |> pan(1 lap, heading: 30deg) |> sample(a)', 'moving even'],
    ['a scroll before tiling', 'out color = uv |> pan(2 laps) |> tile(2, 3) |> sample(a)', 'moving even'],
    ['a still pattern that scrolls', 'out color = uv |> pan(1 lap) |> fbm(4)', 'moving even'],
    [
      'two that scroll together',
      'p = uv |> pan(1 lap)\nout color = (p |> fbm(4)) * (p |> tile(2) |> sample(a))',
      'moving even',
    ],
    ['a spinning image', 'out color = uv |> spin(1 lap, pivot: (0.3, 0.6)) |> sample(a)', 'moving'],
    ['an image that swings to and fro', 'out color = uv |> offset(swing(-0.2, 0.2, 1 lap)) |> sample(c)', 'moving'],
    ['an image that grows', 'out color = uv |> scale(swing(1, 2, 1 lap)) |> sample(a)', 'moving'],
    [
      'a wave along one axis alone',
      'p = uv |> pan(1 lap)\nout color = sin(p.x * 1turn * 3) * 0.5 + 0.5',
      'moving even',
    ],
    ['a pulse', 'out color = (uv |> sample(a)) * swing(0.2, 1, 1 lap)', 'still'],
    [
      'a pulse of a colour of its own',
      'out color = (uv |> pan(1 lap) |> fbm(4)) * (swing(0, 1, 1 lap), 1, 0.5)',
      'moving even',
    ],
    ['a shape that spins within the square', 'out color = uv |> spin(1 lap) |> box((0.6, 0.2))', 'moving'],
    [
      'a still shade across what moves along',
      'out color = (uv |> pan(1 lap, heading: 0deg) |> sample(a)) * (1 - abs(signed(uv.y)))',
      'moving even',
    ],
    [
      'an image that spins within what is stretched',
      'out color = uv |> spin(1 lap) |> tile(2, 1) |> turn(20deg) |> tile(1, 3) |> sample(a)',
      'moving',
    ],
    [
      'an image that is flipped and turned',
      'out color = uv |> flip(v) |> turn(30deg) |> pan(1 lap) |> sample(a)',
      'moving even',
    ],
  ])('%s', (_, text, kind) => {
    const all = read(`${text}\n`);
    const { found } = all;
    const said = found.kind === 'moving' && found.motion.isEven ? 'moving even' : found.kind;
    expect([said, 'why' in found ? found.why : '']).toEqual([kind, '']);
    expect(apart(all)).toBeLessThan(2e-4);
  });

  it.each([
    [
      'what is stretched aslant',
      'out color = uv |> turn(30deg) |> scale((swing(1, 2, 1 lap), 1)) |> sample(a)',
      'changing',
      'shears',
    ],
    [
      'two that move apart',
      'out color = (uv |> pan(1 lap) |> fbm(4)) * (uv |> pan(-1 lap) |> sample(a))',
      'changing',
      'two different motions',
    ],
    [
      'a still mask on what moves',
      'out color = (uv |> pan(1 lap) |> sample(a)) * uv.x',
      'changing',
      'two different motions',
    ],
    ['noise that evolves', 'out color = uv |> fbm(4, evolve: 1 lap)', 'changing', 'change over time'],
    ['a rim', 'out color = facing() * (uv |> sample(a))', 'still', 'the view angle'],
  ])('not: %s', (_, text, kind, why) => {
    const { found } = read(`${text}\n`);
    const unsaid = found.leftOut ?? ('why' in found ? found : undefined);
    expect([found.kind, unsaid?.why]).toEqual([kind, expect.stringContaining(why)]);
    expect(unsaid?.step?.name).toBe('color');
  });

  it('chains of moves: right where they are said, and said wherever no shear is in them', () => {
    const still = fc.constantFrom(
      'tile(2)',
      'tile(3, 1)',
      'offset(0.3, 0.1)',
      'scale(2)',
      'turn(90deg)',
      'turn(30deg)',
      'flip(u)',
    );
    const moving = fc.constantFrom(
      'pan(1 lap)',
      'pan(2 laps, heading: 45deg)',
      'spin(1 lap)',
      'spin(-1 lap, pivot: (0.2, 0.4))',
      'offset(swing(-0.1, 0.1, 1 lap))',
    );
    const chain = fc.tuple(
      fc.array(still, { maxLength: 2 }),
      moving,
      fc.array(fc.oneof(still, moving), { maxLength: 2 }),
    );
    fc.assert(
      fc.property(chain, ([before, move, after]) => {
        const calls = [...before, move, ...after];
        const all = read(`out color = uv |> ${calls.join(' |> ')} |> sample(a)\n`);
        const { found } = all;
        if (found.kind === 'moving' || found.kind === 'still') expect(apart(all, 12)).toBeLessThan(2e-3);
        // Without anything that stretches one axis more than the other no chain can slant.
        else expect([calls, found.why, calls.includes('tile(3, 1)')]).toEqual([calls, found.why, true]);
      }),
      { numRuns: 60 },
    );
  });
});
