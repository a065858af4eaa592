import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { emitShader, GLSL, OPERATIONS, Reference, type Node, type Operation } from '../src/index.ts';
import { corner, fade, gradientNoise, latticeAxes } from '../src/ops/lattice.ts';
import { BLEND_MODES } from '../src/ops/blend-modes.ts';
import { LEVELS, PHRASES } from '../src/ops/phrases.ts';
import { lower } from '../src/lower/lower.ts';
import { Builder } from '../src/ir/builder.ts';
import { program } from './random-programs.ts';
import { checked, code, demoMaterials, glslComplaints, graphOf, sources, valueAt } from './support.ts';

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
      return [...emitShader(GLSL, graph, graph.outputs).code.matchAll(/^\w+ material_(\w+)\(.*\{/gm)].map(
        ([, name]) => name!,
      );
    });
    const others =
      'safe_div safe_mod safe_log safe_pow safe_atan color opacity final_color t1 t2 t3 time beat_value dials frame result material image_a image_b a b p mix main void_1'.split(
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
          `${a!} = uv |> pan(${dial!}, heading: 30deg) |> fbm(cells: 4, evolve: 1 lap)`,
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
    expect(code).toContain(
      '  // falls\n  // flow = uv |> pan(fall, heading: 90deg)\n  vec2 flow = uv - frame.flow_value;',
    );
    // A step may be called as GLSL calls a function.
    expect(code).toContain('float mix_1 = ');
    expect(uniforms).toHaveLength(1);
  });

  it('gives the same values whether or not graphs are simplified', () => {
    const random = fc.sample(program, { numRuns: 60, seed: 8 }).map((text) => ({ text }));
    for (const { text } of [...examples, ...demoMaterials, ...random]) {
      const material = checked(text);
      const unsimplified = lower(material, new Map(), new Builder({ simplify: false }));
      const [plain, simple] = [unsimplified, lower(material)].map((g) => {
        const reference = new Reference([...g.outputs.values()]);
        reference.setFrame({ time: 1.25, dials: new Map(material.dials.map((d) => [d.name, d.value])) });
        return reference.pixel({ uv: [0.31, 0.72] }).flat();
      });
      plain!.forEach((v, i) => expect(Math.abs(v - simple![i]!)).toBeLessThan(1e-4));
    }
  });
});

describe('facts in records', () => {
  /** All texts of a record that name a parameter. */
  const named = (o: Operation): (string | undefined)[] => [
    o.timeParameter,
    o.timeStep,
    ...(o.stretches ?? []).map((s) => s.parameter),
    o.jumps?.when?.parameter,
    ...Object.values<string>({ ...o.dissolves }),
    ...(o.lattice ? [o.lattice.cells, o.lattice.seed] : []),
    ...(o.handles ?? []).flatMap((h) =>
      Object.entries(h).flatMap(([key, value]) =>
        typeof value === 'string' && key !== 'kind' && key !== 'label' ? [value] : [],
      ),
    ),
  ];

  it('name parameters that are there, and a jump the word or operation to take instead', () => {
    for (const o of OPERATIONS) {
      const parameters = o.parameters.map((p) => p.name);
      for (const name of named(o)) if (name !== undefined) expect([o.name, ...parameters]).toContain(name);
      const instead = o.jumps?.instead;
      const word =
        typeof instead === 'string' ? o.parameters.find((p) => p.name === o.jumps?.when?.parameter) : undefined;
      if (typeof instead === 'string') expect(word?.options).toContain(instead);
      else if (instead) expect(OPERATIONS.map((other) => other.name)).toContain(instead.operation);
    }
  });

  it('are there for every centre and pivot, every noise with a seed, and all that gives what flows a time of its own', () => {
    for (const o of OPERATIONS) {
      const has = (name: string): boolean => o.parameters.some((p) => p.name === name);
      const points = o.handles?.flatMap((h) => (h.kind === 'point' ? [h.at] : [])) ?? [];
      expect([o.name, has('center') || has('pivot')]).toEqual([o.name, points.length > 0]);
      expect([o.name, o.lattice !== undefined]).toEqual([o.name, has('seed')]);
      expect([o.name, o.shownTime !== undefined]).toEqual([o.name, o.family === 'time']);
    }
  });

  it('are phrases that compile', () => {
    const lines = [
      'image i = "i.png"',
      `s = ${PHRASES.square}`,
      `r = ${PHRASES.read('s', 'i')}`,
      `a = uv.x |> ${PHRASES.invert}`,
      `b = uv.x |> ${PHRASES.clampToUnit}`,
      `c = ${PHRASES.thereAndBack}`,
      `d = uv.x |> ${PHRASES.levels('0.1', '0.8')}`,
      `e = (uv |> pan(0.3/s)) |> ${PHRASES.crossFade('1')}`,
      `f = ${PHRASES.cloud}`,
      `h = ${['uv', PHRASES.tiled('2', '3'), PHRASES.turned('30'), PHRASES.spun('1', '0.5', '0.5'), PHRASES.offset('0.1', '-0.2'), PHRASES.panned('1', '-2')].join(' |> ')}`,
      `g = ${PHRASES.mixed(PHRASES.whole('uv.x'), PHRASES.within('uv.y'), PHRASES.remainder('uv.x', '0.3'))}`,
      ...OPERATIONS.flatMap((o) => o.parameters.flatMap((p) => (p.sample === undefined ? [] : [p.sample]))).map(
        (sample, i) => `s${String(i)} = ${/^[\d.]+ laps$/.test(sample) ? `wave(${sample})` : sample}`,
      ),
    ];
    expect(checked(`${lines.join('\n')}\nout color = a\n`).diagnostics).toEqual([]);
    expect(LEVELS.exec(PHRASES.levels('0.1', '0.8'))?.slice(1)).toEqual(['0.1', '0.8']);
  });

  it('are all that other folders and packages know: none compares an operation by its name', () => {
    const names = new Set(OPERATIONS.map((o) => o.name));
    const faults: string[] = [];
    for (const [file, text] of sources()) {
      if (file.includes('core/src/ops/')) continue;
      // Compared, switched by, looked up in a list or a record, or asked for by name.
      const uses = [
        ...text.matchAll(/(?:operation|callee|op)\)?\??\.name\s*[!=]==?\s*['"`](\w+)['"`]/g),
        ...text.matchAll(/['"`](\w+)['"`]\s*[!=]==?\s*[\w.]*(?:operation|callee)\??\.name/g),
        ...text.matchAll(/operationNamed\(\s*['"`](\w+)['"`]/g),
      ].map((m) => m[1]!);
      for (const name of uses) if (names.has(name)) faults.push(`${file}: ${name}`);
      if (
        /switch \([\w.]*(?:operation|callee)\??\.name\)|\.(?:includes|has)\([\w.]*(?:operation|callee)\??\.name\)/.test(
          text,
        )
      )
        faults.push(`${file}: a switch or list of names`);
      if (/\w\[[\w.]*operation\??\.name\]/.test(text)) faults.push(`${file}: a record of names`);
      // Core writes calls by phrases alone.
      if (file.includes('core/src/'))
        for (const [, name = ''] of code(text).matchAll(/\|> *(\w+)\(/g))
          if (names.has(name)) faults.push(`${file}: writes ${name}`);
    }
    expect(faults).toEqual([]);
  });
});

describe('blend', () => {
  type Rgb = readonly [number, number, number];
  const each = (f: (b: number, s: number) => number) => (b: Rgb, s: Rgb) =>
    b.map((v, i) => f(v, s[i]!)) as never as Rgb;
  const multiply = (b: number, s: number): number => b * s;
  const screen = (b: number, s: number): number => b + s - b * s;
  const hardLight = (b: number, s: number): number => (s <= 0.5 ? multiply(b, 2 * s) : screen(b, 2 * s - 1));
  const softLight = (b: number, s: number): number => {
    const d = b <= 0.25 ? ((16 * b - 12) * b + 4) * b : Math.sqrt(b);
    return s <= 0.5 ? b - (1 - 2 * s) * b * (1 - b) : b + (2 * s - 1) * (d - b);
  };
  const dodge = (b: number, s: number): number => (b === 0 ? 0 : s === 1 ? 1 : Math.min(1, b / (1 - s)));
  const burn = (b: number, s: number): number => (b === 1 ? 1 : s === 0 ? 0 : 1 - Math.min(1, (1 - b) / s));
  const lum = ([r, g, b]: Rgb): number => 0.3 * r + 0.59 * g + 0.11 * b;
  const clipColor = (c: Rgb): Rgb => {
    const [l, n, x] = [lum(c), Math.min(...c), Math.max(...c)];
    let out: readonly number[] = c;
    if (n < 0) out = out.map((v) => l + ((v - l) * l) / (l - n));
    if (x > 1) out = out.map((v) => l + ((v - l) * (1 - l)) / (x - l));
    return out as Rgb;
  };
  const setLum = (c: Rgb, l: number): Rgb => clipColor(c.map((v) => v + l - lum(c)) as never as Rgb);
  const sat = (c: Rgb): number => Math.max(...c) - Math.min(...c);
  /** The standard's own steps, on the three components in order. */
  const setSat = (c: Rgb, s: number): Rgb => {
    const order = [0, 1, 2].sort((i, j) => c[i]! - c[j]!) as [number, number, number];
    const [min, mid, max] = order;
    const out = [0, 0, 0];
    if (c[max]! > c[min]!) {
      out[mid] = ((c[mid]! - c[min]!) * s) / (c[max]! - c[min]!);
      out[max] = s;
    }
    return out as never as Rgb;
  };
  /** B(Cb, Cs) as the W3C's "Compositing and Blending Level 1" writes it, section 10. */
  const FORMULAS: Readonly<Record<string, (b: Rgb, s: Rgb) => Rgb>> = {
    normal: (_, s) => s,
    multiply: each(multiply),
    screen: each(screen),
    overlay: each((b, s) => hardLight(s, b)),
    darken: each(Math.min),
    lighten: each(Math.max),
    color_dodge: each(dodge),
    color_burn: each(burn),
    hard_light: each(hardLight),
    soft_light: each(softLight),
    difference: each((b, s) => Math.abs(b - s)),
    exclusion: each((b, s) => b + s - 2 * b * s),
    hue: (b, s) => setLum(setSat(s, sat(b)), lum(b)),
    saturation: (b, s) => setLum(setSat(b, sat(s)), lum(b)),
    color: (b, s) => setLum(s, lum(b)),
    luminosity: (b, s) => setLum(b, lum(s)),
  };

  it('has the sixteen modes of the standard', () => {
    expect(Object.keys(BLEND_MODES).sort()).toEqual(Object.keys(FORMULAS).sort());
  });

  it.each(Object.entries(FORMULAS))('%s is what the standard says, with alphas', (mode, formula) => {
    const unit = fc.oneof(
      fc.constantFrom(0, 0.25, 0.5, 1),
      fc.double({ min: 0, max: 1, noNaN: true }).map(Math.fround),
    );
    const rgba = fc.tuple(unit, unit, unit, unit);
    fc.assert(
      fc.property(rgba, rgba, ([br, bg, bb, ab], [sr, sg, sb, as]) => {
        const [base, source]: [Rgb, Rgb] = [
          [br, bg, bb],
          [sr, sg, sb],
        ];
        const text = `out color = (${[...base, ab].join(', ')}) |> blend((${[...source, as].join(', ')}), ${mode})`;
        const [r = 0, g = 0, b = 0, a = 0] = valueAt(text, 'color', [0, 0], 0);
        // Cs = (1 - ab) Cs + ab B(Cb, Cs); co = as Cs + ab Cb (1 - as), over ao for straight alpha.
        const blended = formula(base, source).map((v, i) => (1 - ab) * source[i]! + ab * v);
        const alpha = as + ab * (1 - as);
        expect(a).toBeCloseTo(alpha, 5);
        if (alpha < 1e-3) return;
        const straight = blended.map((v, i) => (as * v + ab * base[i]! * (1 - as)) / alpha);
        // Where two components are all but alike, which is the middle one is a matter of rounding.
        [r, g, b].forEach((v, i) => expect(v).toBeCloseTo(straight[i]!, 4));
      }),
      { numRuns: 200, seed: 11 },
    );
  });
});

describe('time', () => {
  const moving = [
    'uv |> pan(0.3/s, heading: 40deg) |> checker(3)',
    'uv |> fbm(cells: 4, evolve: 0.37/s)',
    'wave(0.7/s, shape: triangle) + uv.x * time',
    'uv |> spin(2 laps) |> value(cells: 5, evolve: 1 lap)',
  ];
  const at = (expression: string, time: number): number =>
    valueAt(`loop 4s at 30fps\nout color = ${expression}\n`, 'color', [0.37, 0.61], time)[0]!;

  it.each(moving)(
    '%s: shown at its own time, played back twice, or late and early by the same, it is what it was',
    (of) => {
      for (const time of [0, 0.7, 2.9]) {
        const plain = at(of, time);
        for (const law of ['retime(time)', 'reverse() |> reverse()', 'delay(0.75s) |> delay(-0.75s)', 'delay(0s)'])
          expect([law, at(`(${of}) |> ${law}`, time)]).toEqual([law, expect.closeTo(plain, 4)]);
        expect(at(`(${of}) |> reverse()`, time)).toBeCloseTo(at(of, 4 - time), 4);
        expect(at(`(${of}) |> delay(0.5s)`, time + 0.5)).toBeCloseTo(plain, 4);
      }
    },
  );
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

  it('mixes slopes before offsets, and is what the sum over corners is but for rounding', () => {
    const b = new Builder();
    const [seed, cells] = [b.constant('u1', [77]), b.constant('f3', [5, 4, 3])];
    const at = b.input('position');
    for (const width of [2, 3]) {
      const axes = latticeAxes(
        b,
        b.swizzle(at, ...[0, 1, 2].slice(0, width)),
        b.swizzle(cells, ...[0, 1, 2].slice(0, width)),
      );
      const bits = Math.floor(32 / width);
      /** Perlin's sum as it is written: at each corner the dot product, then all mixed. */
      const corners = (k: number, hash: Node, offsets: readonly Node[]): Node => {
        const axis = axes[k];
        if (!axis) {
          const h = corner(b, hash);
          return offsets
            .map((offset, i) => b.mul(b.convert('f', b.convert('i', i === 0 ? h : b.shl(h, bits * i))), offset))
            .reduce((sum, t) => b.add(sum, t));
        }
        const [low, high] = [axis.low, axis.high].map((line, i) =>
          corners(k + 1, b.xor(hash, line), [...offsets, i === 0 ? axis.t : b.sub(axis.t, 1)]),
        );
        return b.mix(low!, high!, fade(b, axis.t));
      };
      const reference = new Reference([b.mul(corners(0, seed, []), 2 ** -31), gradientNoise(b, axes, seed)]);
      reference.setFrame({ time: 0, dials: new Map() });
      let worst = 0;
      for (let i = 0; i < 4000; i++) {
        const position = [(i * 0.7548776662) % 1, (i * 0.5698402909) % 1, (i * 0.4301597091) % 1];
        const [plain, factored] = reference.pixel({ uv: [0, 0], position });
        worst = Math.max(worst, Math.abs(plain![0]! - factored![0]!));
      }
      expect([worst > 0, worst < 1.8e-7]).toEqual([true, true]);
    }
  });

  it('never comes back at a rate per second, though it would fit the loop', () => {
    const text = (rate: string): string => `loop 4s at 30fps\nout color = uv |> value(cells: 3, evolve: ${rate})`;
    const jump = (rate: string): number =>
      Math.abs(valueAt(text(rate), 'color', [0.4, 0.3], 4)[0]! - valueAt(text(rate), 'color', [0.4, 0.3], 0)[0]!);
    expect(jump('1 lap')).toBe(0);
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
      const text = `loop 4s at 30fps\nflow = uv |> pan(1 lap, heading: ${String(heading)}deg)`;
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
      valueAt(`loop 4s at 30fps\na = wave(1 lap, shape: ${shape})`, 'a', [0, 0], place * 4)[0]!;
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
