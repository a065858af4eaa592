import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import {
  applyEdits,
  carriedBy,
  check,
  differencePicture,
  examine,
  keepingTheLook,
  measureJump,
  parse,
  setLoop,
  settingValues,
  traceOf,
  velocityField,
  type ExamineOptions,
  type Finding,
  type PixelImage,
  type Report,
} from '../src/index.ts';
import { exactOf, fractionOf, printed, product, sum, whole } from '../src/prove/exact.ts';
import { checked, demoMaterials, graphOf, lineOf } from './support.ts';

const HEAD = 'loop 4s at 30fps\n';
const picture = (width: number, height: number, at: (i: number) => readonly number[]): PixelImage => ({
  width,
  height,
  data: Uint8Array.from({ length: width * height * 4 }, (_, i) => at(i >> 2)[i % 4] ?? 255),
});
/** Normals that lean all ways, and a colourful picture of sides that are no powers of two. */
const PICTURES: Record<string, PixelImage> = {
  normals: picture(8, 8, (i) => [
    127.5 + 90 * Math.sin(i),
    127.5 + 60 * Math.cos(i),
    127.5 * (1 + Math.sqrt(1 - ((90 * Math.sin(i)) / 127.5) ** 2 - ((60 * Math.cos(i)) / 127.5) ** 2)),
  ]),
  colours: picture(6, 8, (i) => [(i * 37) % 255, (i * 91) % 255, (i * 17) % 255]),
};
/** Without the fine measure of the jump, which adds nothing to what is found. */
function looked(text: string, options: ExamineOptions = {}): Report {
  let report: Report | undefined;
  for (report of examine(checked(text), options)) if (report.stage === 'measured') break;
  return report!;
}
const findingsOf = (text: string, options = {}): readonly Finding[] => {
  const program = checked(text);
  expect(program.diagnostics.filter((d) => d.severity === 'error')).toEqual([]);
  return looked(text, { images: ({ source }) => PICTURES[source], ...options }).findings;
};

/**
 * A material for each thing that is found: its code, the line it stands in, and the words of the fixes, each of which
 * must cure it.
 */
const CASES: readonly {
  readonly code: string;
  readonly text: string;
  readonly line: number;
  readonly fixes: readonly string[];
}[] = [
  {
    code: 'loop-open',
    line: 2,
    text: 'out color = uv |> pan(0.3/s, heading: 270deg) |> fbm(cells: 4)',
    fixes: ['Make it 0.25/s, 1 lap', 'Make it 1 lap', 'Make it 0.5/s, 2 laps', 'Make it 2 laps'],
  },
  {
    code: 'loop-open',
    line: 2,
    text: 'out color = uv |> pan(1 lap, heading: 30deg) |> fbm(cells: 4)',
    fixes: ['Pan right 1 lap, up 0 laps', 'Set the heading to 90deg', 'Set the heading to 0deg'],
  },
  {
    code: 'loop-open',
    line: 2,
    text: 'out color = uv |> fbm(cells: 4, evolve: 0.3/s)',
    fixes: ['Make it 1 lap', 'Make it 2 laps'],
  },
  {
    code: 'loop-open',
    line: 2,
    text: 'out color = uv |> value(cells: 4, evolve: 2 laps) |> hold(7 frames)',
    fixes: ['Hold 6 frames: 20 per loop', 'Hold 8 frames: 15 per loop'],
  },
  {
    code: 'loop-open',
    line: 2,
    text: 'out color = uv |> value(cells: 4, evolve: 1 lap) |> retime(time * 1.4)',
    fixes: ['Set the speed of time to 1x', 'Set the speed of time to 2x'],
  },
  { code: 'loop-open', line: 2, text: 'out color = time * 0.1/s', fixes: ['Close it with weave(1s)'] },
  {
    code: 'loop-open',
    line: 2,
    text: 'out color = sin(time * 0.3/s * 1turn)',
    fixes: ['Make it 0.25/s, 1 lap', 'Make it 1 lap', 'Make it 0.5/s, 2 laps', 'Make it 2 laps'],
  },
  {
    code: 'loop-open',
    line: 3,
    text: 'op slide(at: vec2, r: rate) = at |> pan(r)\nout color = uv |> slide(0.3/s) |> value(cells: 3)',
    fixes: ['Make it 0.25/s, 1 lap', 'Make it 1 lap', 'Make it 0.5/s, 2 laps', 'Make it 2 laps'],
  },
  {
    code: 'loop-open',
    line: 3,
    text: 'image a = "x" mirror\nout color = uv |> pan(1 lap) |> sample(a)',
    fixes: ['Make it 2 laps'],
  },
  {
    code: 'loop-open',
    line: 2,
    text: 'flow = uv |> pan(1 lap) |> tile(1.5, 2)\nout color = flow |> fbm(cells: 4)',
    fixes: ['Make it 2 laps'],
  },
  {
    code: 'scrolls-past-edge',
    line: 3,
    text: 'image a = "x" clamp\nout color = uv |> pan(1 lap) |> sample(a)',
    fixes: ['Let a repeat'],
  },
  {
    code: 'loop-present',
    line: 2,
    text: 'dial go: rate = 0.25/s in -1/s..1/s\nout color = uv |> pan(go) |> fbm(cells: 4)',
    fixes: ['Count go in whole laps'],
  },
  {
    code: 'variant-open',
    line: 4,
    text: 'dial go: rate = 0.25/s in -1/s..1/s\nout color = uv |> pan(go) |> fbm(cells: 4)\nvariant "Odd" { go = 0.3/s }',
    fixes: ['Set go to 0.25/s, 1 lap', 'Set go to 0.5/s, 2 laps', 'Count go in whole laps'],
  },
  {
    code: 'tile-open',
    line: 2,
    text: 'out color = uv |> tile(2.5, 2) |> fbm(cells: 4)',
    fixes: ['Make tile 2', 'Make tile 3'],
  },
  {
    code: 'tile-open',
    line: 2,
    text: 'out color = uv |> turn(20deg) |> fbm(cells: 4)',
    fixes: ['Make turn 90deg', 'Make turn 0deg'],
  },
  { code: 'tile-open', line: 2, text: 'out color = uv |> scale(0.4) |> fbm(cells: 4)', fixes: ['Make scale 0.5'] },
  {
    code: 'tile-open',
    line: 2,
    text: 'out color = uv * 2.5 |> fbm(cells: 4)',
    fixes: ['Make the factor 2', 'Make the factor 3'],
  },
  { code: 'has-edges', line: 2, text: 'out color = uv |> linear_gradient(90deg)', fixes: [] },
  { code: 'saw-cuts', line: 2, text: 'out color = saw(1 lap)', fixes: ['Make it go there and back'] },
  { code: 'saw-cuts', line: 2, text: 'out color = wave(1 lap, shape: saw)', fixes: ['Make it go there and back'] },
  { code: 'out-of-0-1', line: 3, text: 'out color = uv.x\nout opacity = uv.x * 2', fixes: ['Clamp to 0-1'] },
  { code: 'negative-color', line: 2, text: 'out color = uv.x - 0.5', fixes: [] },
  { code: 'division-by-zero', line: 2, text: 'out color = abs(1 / (uv.x - 0.5)) * 0.01', fixes: [] },
  { code: 'no-such-root', line: 2, text: 'out color = sqrt(uv.x - 0.5)', fixes: [] },
  {
    code: 'normal-as-color',
    line: 2,
    text: 'image a = "normals"\nout color = uv |> sample(a)',
    fixes: ['Read it as normal'],
  },
  {
    code: 'color-as-data',
    line: 2,
    text: 'image a = "colours" clamp data\nout color = (uv |> sample(a)).rgb',
    fixes: ['Read it as color'],
  },
  { code: 'not-power-of-two', line: 2, text: 'image a = "colours"\nout color = uv |> sample(a)', fixes: [] },
  {
    code: 'stretched-noise',
    line: 2,
    text: 'out color = uv |> tile(4, 1) |> value(cells: 3)',
    fixes: ['Make cells 3 by 12'],
  },
  {
    code: 'same-noise',
    line: 3,
    text: 'n = uv |> value(cells: 3)\nout color = n * (uv |> value(cells: 3))',
    fixes: ['Use n'],
  },
  {
    code: 'shared-seed',
    line: 3,
    text: 'n = uv |> value(cells: 3)\nout color = n * (uv |> pan(1 lap) |> value(cells: 3))',
    fixes: ['Give it seed 1'],
  },
  {
    code: 'dial-jumps',
    line: 2,
    text: 'dial go: rate = 0.25/s in -1/s..1/s\nout color = uv |> pan(go) |> fbm(cells: 4)',
    fixes: ['Count go in whole laps'],
  },
  { code: 'loses-precision', line: 2, text: 'out color = uv |> pan(0.3/s) |> value(cells: 3)', fixes: [] },
  { code: 'unused-step', line: 2, text: 'n = uv.y\nout color = uv.x', fixes: ['Remove the line'] },
  {
    code: 'unused-dial',
    line: 2,
    text: 'dial n = 1 in 0..2\nout color = uv.x\nvariant "A" { n = 2 }',
    fixes: ['Remove n'],
  },
  { code: 'unused-switch', line: 2, text: 'switch n = on\nout color = uv.x', fixes: ['Remove n'] },
  { code: 'unused-image', line: 2, text: 'image n = "x"\nout color = uv.x', fixes: ['Remove n'] },
  { code: 'unused-ramp', line: 2, text: 'ramp n = 0% #000, 100% #fff\nout color = uv.x', fixes: ['Remove n'] },
];

describe('what is found', () => {
  it.each(CASES)('$code in $text', ({ code, text, line, fixes }) => {
    const material = `${HEAD}${text}\n`;
    const found = findingsOf(material).filter((f) => f.code === code);
    expect(found.map((f) => lineOf(material, f.from))).toEqual([line]);
    expect(found[0]!.fixes.map((m) => m.title)).toEqual(fixes);
    // Each fix cures what it is offered for.
    for (const { edits } of found[0]!.fixes)
      expect(findingsOf(applyEdits(material, edits)).filter((f) => f.code === code)).toEqual([]);
  });

  it('of hundreds of open places all are told at once, and fixes proven for the first of them only', () => {
    const steps = Array.from(
      { length: 400 },
      (_, i) => `s${String(i)} = (uv |> pan(0.3 laps) |> value(cells: 4)) + ${i === 0 ? '0' : `s${String(i - 1)}`}`,
    );
    const program = checked(`loop 4s at 30fps\n${steps.join('\n')}\nout color = s399\n`);
    const mended: number[] = [];
    for (const { stage, findings } of examine(program)) {
      const open = findings.filter((f) => f.code === 'loop-open');
      if (stage === 'seen' || stage === 'fixes') expect(open.length).toBe(400);
      if (stage === 'fixes') mended.push(...open.map((f) => f.fixes.length));
      if (stage === 'measured') break;
    }
    expect(mended[0]).toBeGreaterThan(0);
    expect(mended.filter((n) => n > 0).length).toBeLessThan(40);
  });

  it('nothing is found in a material that has nothing', () => {
    expect(
      findingsOf(
        `${HEAD}dial go: laps = 1 in -2..2\nflow = uv |> pan(go)\nout color = flow |> fbm(cells: 4, evolve: 1 lap)\n`,
      ),
    ).toEqual([]);
  });

  it('thousands of steps, each made of the one above, are followed without end of the stack', () => {
    const lines = Array.from(
      { length: 7000 },
      (_, i) => `s${String(i)} = ${i === 0 ? 'uv.x' : `s${String(i - 1)}`} + 0.5`,
    );
    const [first] = examine(checked(`${lines.join('\n')}\nout color = s6999\n`));
    expect(first?.verdicts.whole.verdicts).toMatchObject({ loop: 'always', tile_v: 'always', tile_u: 'unproven' });
  });

  it('a step that comes back only later is told so, where all it goes into closes', () => {
    const text = (out: string): string =>
      `loop 4s at 30fps\nslow = uv |> spin(0.5 laps)\nthird = uv |> pan(1.5 laps)\nring = slow |> polar()\nleaf = abs(sin(ring.x * 3turn))\nout color = ${out}\n`;
    const told = (out: string): unknown[] => {
      const { periods, movements, verdicts } = looked(text(out));
      return [
        verdicts.whole.verdicts.loop,
        periods.map((p) => ('loops' in p ? p.loops : p.kind)),
        movements.map((m) => m.state),
      ];
    };
    // `ring` moves with `slow`; `third` goes nowhere.
    expect(told('leaf')).toEqual(['always', [2, 'open', 2, 'moving', 'moving'], ['later', 'closes']]);
    expect(told('leaf * ring.x')[0]).toBe('open');
    expect((told('leaf * ring.x')[2] as string[])[0]).toBe('open');
  });

  it('what a step costs is what it adds to those above it: by component, once, and nothing a frame', () => {
    const { cost, stepCosts } = looked(
      [
        'image i = "x"',
        'dial go: laps = 1 in 0..4',
        'a = uv.x * 2',
        'b = sin(a) + uv.y',
        'c = uv |> sample(i)',
        'd = (uv * 3) |> sample(i)',
        'e = uv.x * 2',
        'f = wave(go) * 0.5',
        'g = dot(c.xyz, d.xyz)',
        'unused = uv.y * 9',
        'out color = c * b + f * e + g',
      ].join('\n'),
    );
    const row = (operations: number, reads = 0, samplers = 0): object => ({ operations, reads, samplers });
    expect(stepCosts).toEqual([
      row(1),
      row(2),
      row(0, 1, 1),
      // A second read of the same image needs no second sampler.
      row(2, 1),
      row(0),
      row(0),
      row(5),
      row(0),
      // c * b and its sums are four wide; f * e is a number.
      row(4 + 1 + 4 + 4),
    ]);
    expect(cost).toEqual(row(23, 2, 1));
  });

  it('a budget is held against the cost, and names the step that brings most of it', () => {
    const [over, ...others] = findingsOf(`${HEAD}n = uv |> fbm(cells: 4)\nout color = n * 2\n`, {
      budget: { operations: 50, reads: 0 },
    });
    expect([over?.code, others]).toEqual(['over-budget', []]);
    expect(over?.message).toMatch(/over the budget of 50; most of them are in n/);
  });

  it('a report grows by stages', () => {
    const stages = [...examine(checked(`${HEAD}out color = saw(1 lap)\n`))];
    expect(stages.map((s) => [s.stage, s.jump !== undefined, s.findings.length > 0])).toEqual([
      ['proof', false, false],
      ['seen', false, false],
      ['fixes', false, false],
      ['measured', true, true],
      ['done', true, true],
    ]);
  });

  it('a chain of lines leads from the break to what set it going', () => {
    const [open] = findingsOf(
      `${HEAD}flow = uv |> pan(0.3/s)\nbent = flow |> offset(0.2)\nn = bent |> value(cells: 3)\nout color = n\n`,
    ).filter((f) => f.code === 'loop-open');
    expect(open?.because).toEqual([
      { line: 4, text: 'value in n repeats every 1, but its input moves by 1.2 in one loop' },
      { line: 3, text: 'passes through bent' },
      { line: 2, text: 'flow starts the motion: pan(0.3/s)' },
    ]);
  });

  it.each(demoMaterials)('all that is offered for $name can be applied', ({ text }) => {
    for (const { fixes } of looked(text).findings)
      for (const { edits } of fixes) expect(check(parse(applyEdits(text, edits))).ok).toBe(true);
  });
});

describe('motions', () => {
  it('each is told with its laps, whether it closes, and its curve over the loop', () => {
    const text = `${HEAD}dial go: laps = -2 in -4..4\na = uv |> pan(go)\nb = wave(1 lap)\nc = a |> value(cells: 3) |> hold(0.5s)\nd = uv |> spin(0.3/s) |> value(cells: 3)\nout color = b * c * d\n`;
    const { movements, periods } = looked(text);
    expect(movements.map((m) => [m.kind, m.laps, m.state, m.dials.join()])).toEqual([
      ['pan', -2, 'closes', 'go'],
      ['wave', 1, 'closes', ''],
      ['hold', 8, 'closes', ''],
      ['spin', expect.closeTo(1.2), 'open', ''],
    ]);
    const [pan, wave, hold] = movements;
    // -2 laps after an eighth of the loop: a quarter of a period back.
    expect(pan!.curve[12]).toBeCloseTo(0.75);
    expect(wave!.curve[48]).toBeCloseTo(1);
    expect(new Set(hold!.curve.map((v) => v.toFixed(4))).size).toBe(9);
    expect(periods.map((p) => (p.kind === 'laps' ? p.laps : p.kind))).toEqual([2, 1, 2, 'open', 'open']);
  });
});

describe('exact numbers', () => {
  it('fractions come back from the floats they were rounded to', () => {
    fc.assert(
      fc.property(fc.integer({ min: -5000, max: 5000 }), fc.integer({ min: 1, max: 5000 }), (p, q) => {
        const f = fractionOf(p / q)!;
        expect(Number(f.n * f.s) * q).toBe(p * Number(f.d));
      }),
    );
    expect(fractionOf(0.3 * 6)!.toFraction()).toBe('9/5');
    // What is nearly whole is not.
    expect(fractionOf(2.5000000001)!.d > 2n).toBe(true);
    expect(fractionOf(Infinity)).toBeUndefined();
  });

  it('whole turns in radians are kept apart from fractions', () => {
    expect(printed(exactOf(Math.PI / 2)!)).toBe('|1:1/4');
    expect(printed(sum(product(whole(3), exactOf(0.5)!)!, whole(-1))!)).toBe('|0:1/2');
  });
});

describe('measures', () => {
  const dialsOf = (text: string): ReadonlyMap<string, readonly number[]> => settingValues(checked(text)).dials;

  it('the jump of a saw of 120 frames is 119 of its steps; of steady motion 1; of a still picture 1', () => {
    expect(measureJump({ graph: graphOf(`${HEAD}out color = saw(1 lap)`), dials: new Map() }, 16).ratio).toBeCloseTo(
      119,
      3,
    );
    expect(
      measureJump({ graph: graphOf(`${HEAD}out color = uv |> pan(1 lap) |> fbm(cells: 3)`), dials: new Map() }, 32)
        .ratio,
    ).toBeLessThan(2);
    expect(measureJump({ graph: graphOf(`${HEAD}out color = uv.x`), dials: new Map() }, 16)).toMatchObject({
      ratio: 1,
      usual: true,
    });
  });

  it('the difference after a loop or a tile is what the formula says', () => {
    const graph = graphOf(`${HEAD}out color = (time * 0.05/s + uv.x * 0.25) * (1, 1, 1)`);
    for (const v of differencePicture({ graph, dials: new Map() }, ['loop'], { time: 0, size: 8 }))
      expect(v).toBeCloseTo(0.2, 5);
    for (const v of differencePicture({ graph, dials: new Map() }, ['tile_u'], { time: 1, size: 8 }))
      expect(v).toBeCloseTo(0.25, 5);
    for (const v of differencePicture({ graph, dials: new Map() }, ['tile_v'], { time: 1, size: 8 })) expect(v).toBe(0);
  });

  it('a trace has the line down its rows and time along its columns', () => {
    const graph = graphOf(`${HEAD}out color = (uv.y |> above(0.5)) * (time / 1s |> above(2))`);
    const data = traceOf({ graph, dials: new Map() }, { from: [0.5, 0], to: [0.5, 1] }, { columns: 10, rows: 4 });
    const red = (x: number, y: number): number => data[(y * 10 + x) * 4]!;
    // Lit where y is past the middle, from two seconds on: five seconds in ten columns.
    expect([red(0, 3), red(3, 3), red(4, 3), red(9, 3), red(9, 0)]).toEqual([0, 0, 255, 255, 0]);
  });

  it('velocities are those of the motion: along a heading, and round a pivot', () => {
    const text = `${HEAD}flow = uv |> tile(2, 4) |> pan(0.5/s, heading: 90deg)\nn = flow |> value(cells: 2)\nwheel = uv |> spin(0.25/s) |> value(cells: 2)\nout color = n + wheel`;
    const graph = graphOf(text);
    const flow = carriedBy(graph, graph.program.steps[1]!)!;
    expect(flow.step.name).toBe('flow');
    const field = velocityField({ graph, dials: dialsOf(text) }, flow.node, { time: 0.3, size: 4 });
    for (let i = 0; i < 16; i++) {
      expect(field[i * 2]).toBeCloseTo(0, 4);
      // Half a repeat a second, of four down the square; up is towards smaller v.
      expect(field[i * 2 + 1]).toBeCloseTo(-0.125, 4);
    }
    const wheel = velocityField({ graph, dials: new Map() }, carriedBy(graph, graph.program.steps[2]!)!.node, {
      time: 0.3,
      size: 4,
    });
    // At (0.875, 0.125): 0.375 right of and above the pivot, counter-clockwise at a quarter turn a second.
    const speed = 0.375 * 2 * Math.PI * 0.25;
    expect(wheel[3 * 2]).toBeCloseTo(-speed, 2);
    expect(wheel[3 * 2 + 1]).toBeCloseTo(-speed, 2);
  });

  it('edits that keep the picture of a moment are told from those that do not', () => {
    const text = `${HEAD}spare = uv.y\nflow = uv |> pan(0.3/s)\nout color = flow |> value(cells: 3)\n`;
    const { findings } = looked(text);
    const all = findings.map((f) => f.fixes[0]?.edits ?? []);
    const codes = findings.map((f) => f.code);
    const kept = (time: number): string[] => keepingTheLook(checked(text), all, time).map((i) => codes[i]!);
    expect(kept(1.3)).toEqual(['unused-step']);
    // At the start no rate has moved anything yet.
    expect(kept(0)).toEqual(['unused-step', 'loop-open']);
  });

  it('the loop is written where it stands, or below the title', () => {
    for (const text of [
      'material "A"\nout color = uv.x\n',
      'loop 4s at 30fps // four\nout color = uv.x\n',
      'out color = uv.x\n',
    ]) {
      const after = applyEdits(text, setLoop(parse(text), 2.5, 24));
      expect(checked(after).loop).toMatchObject({ seconds: 2.5, fps: 24 });
      expect(after).toContain(text.includes('four') ? '// four' : 'out color');
    }
  });
});
