import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { emitShader, GLSL, OPERATIONS, Reference } from '../src/index.ts';
import { lower } from '../src/lower/lower.ts';
import { Builder } from '../src/ir/builder.ts';
import { program } from './random-programs.ts';
import { checked, demoMaterials, glslComplaints, graphOf, valueAt } from './support.ts';

const HEAD = '#version 300 es\nprecision highp float;\nprecision highp int;\n';
const TAIL = '\nin vec2 v_uv;\nout vec4 o;\nvoid main() { o = vec4(v_uv, 0.0, 1.0); }\n';
const examples = OPERATIONS.map((o) => ({ name: o.name, text: o.example }));

describe('the operation table', () => {
  it('names each operation once, and each parameter of it', () => {
    expect(new Set(OPERATIONS.map((o) => o.name)).size).toBe(OPERATIONS.length);
    for (const o of OPERATIONS) expect(new Set(o.parameters.map((p) => p.name)).size).toBe(o.parameters.length);
  });

  it.each(examples)('has an example for $name that checks, uses it and gives finite values', ({ name, text }) => {
    const program = checked(text);
    expect(program.diagnostics).toEqual([]);
    expect(text).toContain(`${name}(`);
    const graph = lower(program);
    const reference = new Reference([...graph.outputs.values()]);
    for (const time of [0, 1.3, 4]) {
      reference.setFrame({ time, dials: new Map() });
      for (const uv of [
        [0, 0],
        [0.5, 0.5],
        [1, 1],
        [0.3, 0.8],
      ])
        for (const value of reference.pixel({ uv })) expect(value.every(Number.isFinite)).toBe(true);
    }
  });

  it('is written as GLSL that a real compiler takes, as are the demo materials', () => {
    const shaders = [...examples, ...demoMaterials].map(({ name, text }) => {
      const graph = graphOf(text);
      // Every step is asked for, so that nothing is left out.
      const results = new Map(graph.program.steps.map((s, i) => [`${s.name}_${String(i)}`, graph.steps[i]!]));
      return { name, source: HEAD + emitShader(GLSL, graph, results).code + TAIL };
    });
    expect(glslComplaints(shaders)).toBe('');
  });

  it('is written as valid GLSL from random programs', () => {
    const texts = fc.sample(program, { numRuns: 80, seed: 5 });
    const shaders = texts.map((text, i) => {
      const graph = graphOf(text);
      return { name: `random-${String(i)}`, source: HEAD + emitShader(GLSL, graph, graph.outputs).code + TAIL };
    });
    expect(glslComplaints(shaders)).toBe('');
  });

  it('is written as valid GLSL whatever steps, dials and images are called', () => {
    const functions = examples.flatMap(({ text }) => {
      const graph = graphOf(text);
      return [...emitShader(GLSL, graph, graph.outputs).code.matchAll(/^\w+ (\w+)\(.*\{/gm)].map(([, name]) => name!);
    });
    const others =
      'safe_div safe_mod safe_log safe_pow safe_atan out_color out_opacity final_color t1 t2 t3 u_time u_beat_value u_a image_a image_b a b p mix main void_1'.split(
        ' ',
      );
    const names = [
      ...new Set([...functions, ...others, ...'float sampler2D texture gl_x a__b x_ discard'.split(' ')]),
    ].filter((name) => checked(`${name} = uv.x\nout color = ${name}\n`).ok);
    expect(names.length).toBeGreaterThan(25);
    const text = fc
      .uniqueArray(fc.constantFrom(...names), { minLength: 9, maxLength: 9 })
      .map(([dial, image, ...steps]) => {
        const [a, b, c, d, e, f, g] = steps;
        return [
          `dial ${dial!}: laps = 1 in -4..4`,
          `image ${image!} = "x.png"`,
          `${a!} = uv |> pan(${dial!}, heading: 30deg) |> fbm(cells: 4, evolve: 1 laps)`,
          `${b!} = wave(${dial!}) / (uv.x + ${a!})`,
          `${c!} = (abs(${b!}) |> power(2.5)) + log(${b!}) + mod(${b!}, 0.3)`,
          `${d!} = uv |> polar() |> sample(${image!})`,
          `${e!} = uv |> cellular(cells: 3) |> bump(${a!})`,
          `${f!} = (uv |> gradient(cells: 5)) * ${c!} + (uv |> white(cells: 9))`,
          `${g!} = ${d!}.xyz * ${f!} + ${c!}`,
          `out color = ${g!}`,
          `out opacity = ${f!} + ${e!}.x`,
        ].join('\n');
      });
    const shaders = fc.sample(text, { numRuns: 60, seed: 3 }).map((text, i) => {
      const graph = graphOf(text);
      return { name: `named-${String(i)}`, source: HEAD + emitShader(GLSL, graph, graph.outputs).code + TAIL };
    });
    expect(glslComplaints(shaders)).toBe('');
  });

  it('keeps the names and comments of a material in its GLSL', () => {
    const graph = graphOf(
      'dial fall: laps = 2\nflow = uv |> pan(fall, heading: 90deg) // falls\nmix = flow |> checker(3)\nout color = mix * flow.x',
    );
    const { code, uniforms } = emitShader(GLSL, graph, graph.outputs);
    expect(code).toContain('  // falls\n  // flow = uv |> pan(fall, heading: 90deg)\n  vec2 flow = uv - u_flow_value;');
    // A step may be called as GLSL calls a function.
    expect(code).toContain('float mix_1 = ');
    expect(uniforms).toHaveLength(1);
  });

  it('gives the same values whether or not graphs are simplified', () => {
    for (const { text } of [...examples, ...demoMaterials]) {
      const program = checked(text);
      const [plain, simple] = [lower(program, new Map(), new Builder({ simplify: false })), lower(program)].map((g) => {
        const reference = new Reference([...g.outputs.values()]);
        reference.setFrame({ time: 1.25, dials: new Map(program.dials.map((d) => [d.name, d.value])) });
        return reference.pixel({ uv: [0.31, 0.72] }).flat();
      });
      plain!.forEach((v, i) => expect(Math.abs(v - simple![i]!)).toBeLessThan(1e-4));
    }
  });
});

describe('noise', () => {
  const evolving = OPERATIONS.filter((o) => o.family === 'noise' && o.parameters.some((p) => p.name === 'evolve'));
  const place = fc.double({ min: 0, max: 1, noNaN: true }).map(Math.fround);
  const uses = [
    ...evolving.flatMap(({ name }) =>
      ['uv', '(uv.x, uv.y, 0.3)'].map((at) =>
        name === 'curl'
          ? '(uv |> curl(cells: (5, 4), evolve: boil, seed: 7)).xyx'
          : `${at} |> ${name}(cells: (5, 4), evolve: boil, seed: 7)`,
      ),
    ),
    'uv |> fbm(cells: (3, 4), octaves: 2, evolve: boil, basis: simplex)',
    'uv |> ridged(cells: (3, 4), octaves: 2, evolve: boil, basis: cellular)',
    'uv |> specks(cells: (5, 4), rate: boil, seed: 7)',
  ];

  it.each([...new Set(uses)])('%s tiles over the unit square and loops in whole laps, bit for bit', (use) => {
    const graph = graphOf(`loop 3s at 30fps\ndial boil: laps = 2 in 1..5\nout color = ${use}`);
    const reference = new Reference([graph.outputs.get('color')!]);
    const at = (u: number, v: number, time: number, boil: number): number => {
      reference.setFrame({ time, dials: new Map([['boil', [boil]]]) });
      return reference.pixel({ uv: [u, v] })[0]![0]!;
    };
    fc.assert(
      fc.property(
        place,
        place,
        fc.integer({ min: 0, max: 89 }),
        fc.integer({ min: 1, max: 5 }),
        (u, v, frame, boil) => {
          const time = frame / 30;
          expect(at(1, v, time, boil)).toBe(at(0, v, time, boil));
          expect(at(u, 1, time, boil)).toBe(at(u, 0, time, boil));
          expect(at(u, v, 3, boil)).toBe(at(u, v, 0, boil));
        },
      ),
      { numRuns: 10 },
    );
  });

  it('never comes back at a rate per second, though it would fit the loop', () => {
    const text = (rate: string): string => `loop 4s at 30fps\nout color = uv |> value(cells: 3, evolve: ${rate})`;
    const jump = (rate: string): number =>
      Math.abs(valueAt(text(rate), 'color', [0.4, 0.3], 4)[0]! - valueAt(text(rate), 'color', [0.4, 0.3], 0)[0]!);
    expect(jump('1 laps')).toBe(0);
    expect(jump('0.25/s')).toBeGreaterThan(0.01);
  });

  it.each([
    // An even spread has the deviation 1 / sqrt 12.
    ['white(cells: 64)', 0.5, 0.289],
    ['value(cells: 64)', 0.5, 0.185],
    ['gradient(cells: 64)', 0.5, 0.17],
    ['simplex(cells: 64)', 0.5, 0.175],
    ['simplex(cells: 64, evolve: 5 laps)', 0.5, 0.175],
    ['fbm(cells: 32)', 0.5, 0.165],
    ['cellular(cells: 64)', 0.43, 0.185],
    ['ridged(cells: 64)', 0.6, 0.16],
    ['billow(cells: 64)', 0.26, 0.12],
    ['zigzag(cells: 64)', 0.5, 0.175],
  ])('%s keeps to 0..1 with the mean %d that its help states', (use, mean, deviation) => {
    const graph = graphOf(`out color = uv |> ${use}`);
    const reference = new Reference([graph.outputs.get('color')!]);
    reference.setFrame({ time: 0.31, dials: new Map() });
    // A rank-1 lattice spreads the samples evenly (A. Korobov's method; 1597 and 987 are Fibonacci numbers).
    const values = Array.from(
      { length: 1597 },
      (_, i) => reference.pixel({ uv: [i / 1597, ((i * 987) % 1597) / 1597] })[0]![0]!,
    );
    const found = values.reduce((a, b) => a + b) / values.length;
    expect(Math.min(...values)).toBeGreaterThanOrEqual(0);
    expect(Math.max(...values)).toBeLessThanOrEqual(1);
    expect(Math.abs(found - mean)).toBeLessThan(0.03);
    expect(
      Math.abs(Math.sqrt(values.reduce((a, b) => a + (b - found) ** 2, 0) / values.length) - deviation),
    ).toBeLessThan(0.025);
  });
});

describe('conventions', () => {
  it('sends the picture where the heading points', () => {
    // What stood at a place stands farther along the heading later.
    for (const [heading, dx, dy] of [
      [0, 1, 0],
      [90, 0, -1],
      [180, -1, 0],
      [270, 0, 1],
    ] as const) {
      const text = `loop 4s at 30fps\nflow = uv |> pan(1 laps, heading: ${String(heading)}deg)`;
      const before = valueAt(text, 'flow', [0.5, 0.5], 0);
      const after = valueAt(text, 'flow', [0.5 + dx * 0.25, 0.5 + dy * 0.25], 1);
      after.forEach((v, i) => expect(v).toBeCloseTo(before[i]!, 6));
    }
  });

  it('gives 0 for division by zero and its kin', () => {
    for (const text of [
      '1 / (uv.x - uv.x)',
      'sqrt(uv.x - 2)',
      'log(uv.x - 2)',
      'mod(uv.x, uv.y - uv.y)',
      'power(uv.x - 2, 0.5)',
      'atan(uv.x - uv.x, 0) / 1turn',
      'length(normalize(uv - uv))',
    ]) {
      expect([text, valueAt(`a = ${text}`, 'a', [0.5, 0.5], 0)]).toEqual([text, [0]]);
    }
  });

  it('draws every shape of a wave from 0 to 1', () => {
    const at = (shape: string, place: number): number =>
      valueAt(`loop 4s at 30fps\na = wave(1 laps, shape: ${shape})`, 'a', [0, 0], place * 4)[0]!;
    expect(
      ['sine', 'triangle', 'saw', 'square'].map((s) =>
        [0, 0.25, 0.5, 0.75].map((p) => Math.round(at(s, p) * 1000) / 1000),
      ),
    ).toEqual([
      [0, 0.5, 1, 0.5],
      [0, 0.5, 1, 0.5],
      [0, 0.25, 0.5, 0.75],
      [0, 0, 1, 1],
    ]);
  });

  it('colours by a ramp, straight, smooth and in steps', () => {
    const at = (word: string, x: number): number[] =>
      valueAt(
        `ramp r = 0% #000000, 50% #ffffff, 100% #ffffff00 ${word}\na = ${String(x)} |> ramp(r)`,
        'a',
        [0, 0],
        0,
      ).map((v) => Math.round(v * 1e4) / 1e4);
    expect(at('linear', 0.25)).toEqual([0.5, 0.5, 0.5, 1]);
    expect(at('smooth', 0.125)).toEqual([0.1563, 0.1563, 0.1563, 1]);
    expect(at('stepped', 0.49)).toEqual([0, 0, 0, 1]);
    expect(at('linear', 2)).toEqual([1, 1, 1, 0]);
  });
});
