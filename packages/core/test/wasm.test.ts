import { beforeAll, describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import wabt from 'wabt';
import {
  compile,
  OPERATIONS,
  Reference,
  settingValues,
  WasmEvaluator,
  type ImageSlot,
  type PixelImage,
  type Value,
} from '../src/index.ts';
import { lower } from '../src/lower/lower.ts';
import { compileWasm } from '../src/backends/wasm/compile.ts';
import { Builder } from '../src/ir/builder.ts';
import { finite, KINDS, type Components } from '../src/ir/kinds.ts';
import type { Kind } from '../src/ir/node.ts';
import { checked, demoMaterials, graphOf } from './support.ts';
import { extremeProgram } from './extreme-programs.ts';
import { program } from './random-programs.ts';

const texts = [...OPERATIONS.map((o) => ({ name: o.name, text: o.example })), ...demoMaterials];
const places = Float32Array.from([
  0,
  0,
  1,
  1,
  0.5,
  0.5,
  1,
  0,
  -0.25,
  1.75,
  ...Array.from({ length: 54 }, (_, i) => ((i * 0.6180339887) % 1.4) - 0.2),
]);
const COUNT = places.length / 2;

/** Largest difference of any component of any step between the reference and WebAssembly. */
function worstDifference(text: string, times: readonly number[], variant?: string): { worst: number; where: string } {
  const checkedProgram = checked(text);
  const { dials, switches } = settingValues(checkedProgram, variant);
  const graph = lower(checkedProgram, switches);
  const roots = [...new Set(graph.steps)];
  const [wasm, reference] = [new WasmEvaluator(roots), new Reference(roots)];
  const out = roots.map(() => new Float32Array(COUNT * 4));
  let result = { worst: 0, where: '' };
  for (const time of times) {
    wasm.setFrame({ time, dials });
    reference.setFrame({ time, dials });
    wasm.block({ uv: places }, COUNT, out);
    for (let i = 0; i < COUNT; i++) {
      reference.pixel({ uv: [places[i * 2]!, places[i * 2 + 1]!] }).forEach((value, r) => {
        value.forEach((v, c) => {
          const got = out[r]![i * value.length + c]!;
          const difference = Math.abs(v - got) / Math.max(1, Math.abs(v));
          if (!(difference <= result.worst))
            result = {
              worst: difference,
              where: `${checkedProgram.steps[graph.steps.indexOf(roots[r]!)]?.name ?? ''} at ${String(places[i * 2])}, ${String(places[i * 2 + 1])}, ${String(time)} s: ${String(v)} and ${String(got)}`,
            };
        });
      });
    }
  }
  return result;
}

describe('the WebAssembly back end', () => {
  it.each(texts)('agrees with the reference on every step of $name', ({ text }) => {
    const variants = [undefined, ...checked(text).variants.map((v) => v.name)];
    for (const variant of variants) {
      const { worst, where } = worstDifference(text, [0, 0.9, 2.6], variant);
      // Only transcendental functions may differ, by the bounds below; sums of them by a few times as much.
      expect([worst < 4e-6, where]).toEqual([true, where]);
    }
  });

  describe('to a second reader', () => {
    let reader: Awaited<ReturnType<typeof wabt>>;
    beforeAll(async () => {
      reader = await wabt();
    });
    it.each(texts)('is valid for $name', ({ text }) => {
      const module = reader.readWasm(compileWasm(graphOf(text).steps).bytes, { simd: true, multi_value: true });
      expect(() => module.validate()).not.toThrow();
      module.destroy();
    });
  });

  it('is made of the same bytes each time', () => {
    const bytes = (): Uint8Array => compileWasm(graphOf(demoMaterials[0]!.text).steps).bytes;
    expect(Buffer.compare(bytes(), bytes())).toBe(0);
  });

  it('agrees on random well-typed programs', () => {
    fc.assert(
      fc.property(program, (text) => {
        expect(checked(text).diagnostics).toEqual([]);
        const { worst, where } = worstDifference(text, [0, 1.1]);
        if (!(worst < 2e-3)) throw new Error(`${text}\n${where}`);
      }),
      { numRuns: 150 },
    );
  });
});

it('agrees on values of extreme magnitudes, finite in both', () => {
  fc.assert(
    fc.property(extremeProgram, (text) => {
      const { program: material, graph, ok } = compile(text);
      expect(material.diagnostics.filter((d) => d.severity === 'error')).toEqual([]);
      if (!ok) return;
      // Each step by itself: what a function is off by in its last bits may be blown up by the next.
      const roots = [...new Set(graph.steps)];
      const [wasm, reference] = [new WasmEvaluator(roots), new Reference(roots)];
      const out = roots.map(() => new Float32Array(COUNT * 4));
      wasm.setFrame({ time: 0, dials: new Map() });
      reference.setFrame({ time: 0, dials: new Map() });
      wasm.block({ uv: places }, COUNT, out);
      const inexact = /exp|log|sin|cos|atan|power/.test(text);
      for (let i = 0; i < COUNT; i++)
        reference.pixel({ uv: [places[i * 2]!, places[i * 2 + 1]!] }).forEach((value, r) => {
          value.forEach((v, c) => {
            const got = out[r]![i * value.length + c]!;
            expect([v, got].every(Number.isFinite)).toBe(true);
            if (!inexact && Math.fround(v) !== got)
              throw new Error(
                `${text}\nstep ${String(r)} at ${String(places[i * 2])}, ${String(places[i * 2 + 1])}: ${String(v)} and ${String(got)}`,
              );
          });
        });
    }),
    { numRuns: Number(process.env.ESTELA_RUNS ?? 300) },
  );
});

describe('functions without an instruction', () => {
  const single = (kind: Kind, inputs: readonly (readonly number[])[]): number[] => {
    const b = new Builder();
    const uv = b.input('uv');
    const node = b.node<Kind>(
      kind,
      'f1',
      kind === 'pow' || kind === 'atan2' ? [b.x(uv), b.y(uv)] : [b.x(uv)],
      undefined,
    );
    const evaluator = new WasmEvaluator([node]);
    evaluator.setFrame({ time: 0, dials: new Map() });
    const out = new Float32Array(inputs.length);
    for (let at = 0; at < inputs.length; at += 1024) {
      const part = inputs.slice(at, at + 1024);
      evaluator.block({ uv: Float32Array.from(part.flatMap(([x = 0, y = 0]) => [x, y])) }, part.length, [out], at);
    }
    return [...out];
  };
  const spread = (low: number, high: number, count = 4000): number[] =>
    Array.from({ length: count }, (_, i) => Math.fround(low + ((high - low) * i) / (count - 1)));
  /**
   * Distance between a float and the true value, in units of the float's last place (of 1 at least, where `absolute`).
   */
  const ulps = (got: number, wanted: number, absolute: boolean): number =>
    Math.abs(got - wanted) / 2 ** (Math.floor(Math.log2(Math.max(Math.abs(wanted), absolute ? 0.5 : 1e-38))) - 23);

  it.each([
    ['exp', Math.exp, spread(-87, 88), 2, false],
    ['log', Math.log, [...spread(1e-6, 4), ...spread(4, 1e6), 1e-30, 1e30], 2, true],
    ['sin', Math.sin, [...spread(-10, 10), ...spread(-8192, 8192)], 2, true],
    ['cos', Math.cos, [...spread(-10, 10), ...spread(-8192, 8192)], 2, true],
  ] as const)('%s keeps to its bound', (kind, truth, inputs, bound, absolute) => {
    const values = single(
      kind,
      inputs.map((x) => [x]),
    );
    const worst = Math.max(...values.map((v, i) => ulps(v, truth(inputs[i]!), absolute)));
    expect(worst).toBeLessThanOrEqual(bound);
  });

  it.each(['exp', 'log', 'sin', 'cos', 'atan2', 'pow'] as const)(
    '%s has the value of its definition at the ends',
    (kind) => {
      const ends = [
        0,
        -0,
        1e-45,
        -1e-45,
        1e-38,
        1,
        -2,
        80,
        1e4,
        65536,
        65537,
        -3e5,
        1e20,
        3.4e38,
        -3.4e38,
        Infinity,
        -Infinity,
        NaN,
      ];
      const inputs = ends.flatMap((x) => (kind === 'atan2' || kind === 'pow' ? ends.map((y) => [x, y]) : [[x]]));
      const { definition } = KINDS[kind];
      const f = (definition as Components).f!(Math.fround);
      single(kind, inputs).forEach((got, i) => {
        const [x = 0, y] = inputs[i]!.map(Math.fround);
        const wanted = finite(Math.fround(f(x, y)));
        expect([x, y, Math.abs(got - wanted) <= 1e-4 * Math.max(1, Math.abs(wanted))]).toEqual([x, y, true]);
      });
    },
  );

  it('atan2 keeps to 3 ULP of pi all round, and is 0 at the centre', () => {
    const inputs = spread(-Math.PI, Math.PI).map((a) => [Math.fround(Math.sin(a) * 3), Math.fround(Math.cos(a) * 3)]);
    const worst = Math.max(
      ...single('atan2', inputs).map((v, i) => Math.abs(v - Math.atan2(inputs[i]![0]!, inputs[i]![1]!)) / 2 ** -22),
    );
    expect(worst).toBeLessThanOrEqual(3);
    expect(
      single('atan2', [
        [0, 0],
        [0, 1],
        [1, 0],
      ]).map((v) => Math.round(v * 1e6) / 1e6),
    ).toEqual([0, 0, 1.570796]);
  });

  it('pow keeps to its bound, and is total', () => {
    const inputs = spread(0.001, 20, 300).flatMap((x) => [-3, -0.5, 0.3, 1, 2, 2.4, 7].map((y) => [x, Math.fround(y)]));
    single('pow', inputs).forEach((v, i) => {
      const [x = 0, y = 0] = inputs[i]!;
      expect(Math.abs(v / x ** y - 1)).toBeLessThanOrEqual(2 ** -23 * (2 + 2 * Math.abs(y * Math.log(x))));
    });
    expect(
      single('pow', [
        [0, 0],
        [0, 2],
        [-1, 2],
        [2, 0],
      ]),
    ).toEqual([1, 0, 0, 1]);
  });
});

describe('image reads', () => {
  const wraps = ['repeat', 'mirror', 'clamp'] as const;
  const slot: fc.Arbitrary<ImageSlot> = fc.record({
    name: fc.constant('i'),
    source: fc.constant('i'),
    wrap: fc.constantFrom(...wraps),
    filter: fc.constantFrom('linear' as const, 'nearest' as const),
    encoding: fc.constantFrom('color' as const, 'data' as const),
  });
  const image: fc.Arbitrary<PixelImage> = fc
    .tuple(fc.integer({ min: 1, max: 7 }), fc.integer({ min: 1, max: 5 }), fc.boolean())
    .chain(([width, height, deep]) =>
      fc
        .array(fc.integer({ min: 0, max: deep ? 65535 : 255 }), {
          minLength: width * height * 4,
          maxLength: width * height * 4,
        })
        .map((d) => ({ width, height, data: deep ? Uint16Array.from(d) : Uint8Array.from(d) })),
    );
  const coordinate = fc
    .oneof(fc.double({ min: -3, max: 3, noNaN: true }), fc.constantFrom(0, 1, -1, 0.5, 2))
    .map(Math.fround);

  it("give the reference's bits, for every wrap, filter, depth and size", () => {
    fc.assert(
      fc.property(
        slot,
        image,
        fc.array(fc.tuple(coordinate, coordinate), { minLength: 1, maxLength: 16 }),
        (s, pixels, at) => {
          const b = new Builder();
          const roots = [b.sample(s, b.input('uv'))];
          const [wasm, reference] = [new WasmEvaluator(roots, () => pixels), new Reference(roots, () => pixels)];
          for (const e of [wasm, reference]) e.setFrame({ time: 0, dials: new Map() });
          const out = new Float32Array(at.length * 4);
          wasm.block({ uv: Float32Array.from(at.flat()) }, at.length, [out]);
          expect([...out]).toEqual(at.flatMap((uv): Value => reference.pixel({ uv })[0]!).map(Math.fround));
        },
      ),
      { numRuns: 300 },
    );
  });
});
