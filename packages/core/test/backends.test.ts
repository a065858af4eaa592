import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { compile, emitShader, forSoftware, GLSL, HLSL, Reference, WasmEvaluator, type Node } from '../src/index.ts';
import { Builder } from '../src/ir/builder.ts';
import { KINDS } from '../src/ir/kinds.ts';
import { irType, scalarOf, widthOf, type IrType, type Kind, type Scalar } from '../src/ir/node.ts';
import { glslComplaints } from './support.ts';

const WIDTHS = [1, 2, 3, 4] as const;
const PLACES = [
  [0.1, 0.7],
  [0.93, 0.02],
  [0.5, 0.5],
  [0.31, 0.86],
] as const;

/** A value that differs from pixel to pixel and from component to component; floats from -2 to 2. */
function varying(b: Builder, type: IrType, seed: number): Node {
  const uv = b.input('uv');
  const parts = Array.from({ length: widthOf(type) }, (_, i) => {
    const [p, q] = [((seed * 5 + i * 3) % 7) - 3, ((seed * 3 + i * 5) % 5) - 2];
    const x = b.add(b.add(b.mul(b.x(uv), p), b.mul(b.y(uv), q)), 0.25 * (seed + i - 2));
    const scalar = scalarOf(type);
    if (scalar === 'f') return x;
    if (scalar === 'b') return b.lt(x, 0.1);
    return b.convert(scalar, b.floor(scalar === 'u' ? b.abs(b.mul(x, 40)) : b.mul(x, 40)));
  });
  return parts.length === 1 ? parts[0]! : b.vec(...parts);
}

interface Case {
  readonly name: string;
  readonly make: (b: Builder, operands: readonly Node[]) => Node;
  readonly operands: readonly IrType[];
}

/** Widths of so many operands: all alike, and each one narrow beside wide ones. */
function widthsOf(count: number): number[][] {
  const all = WIDTHS.map((w) => Array.from({ length: count }, () => w));
  const mixed = WIDTHS.slice(1).flatMap((w) =>
    Array.from({ length: count }, (_, narrow) => Array.from({ length: count }, (__, i) => (i === narrow ? 1 : w))),
  );
  return count === 1 ? all : [...all, ...mixed];
}

const scalars = (kind: Kind): Scalar[] => [...KINDS[kind].scalars] as Scalar[];
const widest = (operands: readonly Node[]): number => Math.max(...operands.map((o) => widthOf(o.type)));

function plain(kind: Kind, result: (scalar: Scalar) => Scalar = (s) => s): Case[] {
  return scalars(kind).flatMap((scalar) =>
    widthsOf(KINDS[kind].operands).map((widths): Case => ({
      name: `${kind} ${scalar}${widths.join('')}`,
      operands: widths.map((w) => irType(scalar, w)),
      make: (b, args) => b.node<Kind>(kind, irType(result(scalar), widest(args)), args, undefined),
    })),
  );
}
const truth = (kind: Kind): Case[] => plain(kind, () => 'b');
const shifts = (kind: 'shl' | 'shr'): Case[] =>
  plain(kind).flatMap((c) =>
    [0, 5, 31].map((count) => ({
      ...c,
      name: `${c.name} by ${String(count)}`,
      make: (b, [of]) => b[kind](of!, count),
    })),
  );
const to = (kind: 'convert' | 'bitcast', targets: (from: Scalar) => string): Case[] =>
  scalars(kind).flatMap((from) =>
    [...targets(from)].flatMap((target) =>
      WIDTHS.map((w): Case => ({
        name: `${kind} ${from}${String(w)} to ${target}`,
        operands: [irType(from, w)],
        // Bits that are no finite number have no value to compare.
        make: (b, [of]) => b[kind](target as 'f', kind === 'bitcast' && target === 'f' ? b.and(of!, 0x3fffffff) : of!),
      })),
    ),
  );
const none: Case[] = [];

/** Every kind; one that is missing does not compile. */
const CASES: Readonly<Record<Kind, readonly Case[]>> = {
  constant: scalars('constant').flatMap((scalar) =>
    WIDTHS.map((w) => ({
      name: `constant ${scalar}${String(w)}`,
      operands: [],
      make: (b: Builder) =>
        b.constant(
          irType(scalar, w),
          Array.from({ length: w }, (_, i) =>
            scalar === 'b' ? i % 2 : scalar === 'f' ? i - 1.5 : scalar === 'u' ? 4294967295 - i : i - 2147483648,
          ),
        ),
    })),
  ),
  // Leaves are the operands of all others.
  input: none,
  uniform: none,
  parameter: none,
  neg: plain('neg'),
  abs: plain('abs'),
  floor: plain('floor'),
  ceil: plain('ceil'),
  fract: plain('fract'),
  sign: plain('sign'),
  sqrt: plain('sqrt'),
  exp: plain('exp'),
  log: plain('log'),
  sin: plain('sin'),
  cos: plain('cos'),
  not: plain('not'),
  add: plain('add'),
  sub: plain('sub'),
  mul: plain('mul'),
  div: plain('div'),
  mod: plain('mod'),
  min: plain('min'),
  max: plain('max'),
  pow: plain('pow'),
  atan2: plain('atan2'),
  and: plain('and'),
  or: plain('or'),
  xor: plain('xor'),
  shl: shifts('shl'),
  shr: shifts('shr'),
  lt: truth('lt'),
  le: truth('le'),
  eq: truth('eq'),
  select: plain('select').map((c) => ({
    ...c,
    operands: [irType('b', widthOf(c.operands[0]!)), ...c.operands.slice(1)],
  })),
  mix: plain('mix'),
  clamp: plain('clamp'),
  dot: WIDTHS.map((w) => ({
    name: `dot f${String(w)}`,
    operands: [irType('f', w), irType('f', w)],
    make: (b, [x, y]) => b.dot(x!, y!),
  })),
  vec: scalars('vec').flatMap((scalar) =>
    [
      [1, 1],
      [2, 1],
      [1, 3],
      [1, 1, 1],
      [2, 2],
      [1, 2, 1],
    ].map((widths) => ({
      name: `vec ${scalar}${widths.join('')}`,
      operands: widths.map((w) => irType(scalar, w)),
      make: (b: Builder, args: readonly Node[]) => b.vec(...args),
    })),
  ),
  swizzle: scalars('swizzle').flatMap((scalar) =>
    WIDTHS.flatMap((w) =>
      [[0], [w - 1, 0], [0, 0, w - 1], [w - 1, 0, 0, w - 1]].map((indices) => ({
        name: `swizzle ${scalar}${String(w)} ${indices.join('')}`,
        operands: [irType(scalar, w)],
        make: (b: Builder, [of]: readonly Node[]) => b.swizzle(of!, ...indices),
      })),
    ),
  ),
  convert: to('convert', (from) => 'fiu'.replace(from, '')),
  bitcast: to('bitcast', (from) => 'fiu'.replace(from, '')),
  derivative: WIDTHS.map((w) => ({
    name: `derivative f${String(w)}`,
    operands: [irType('f', w)],
    make: (b, [of]) => b.node('derivative', of!.type, [of!], 'y'),
  })),
  sample: [
    {
      name: 'sample',
      operands: ['f2'],
      make: (b, [at]) =>
        b.sample({ name: 'a', source: 'a.png', wrap: 'repeat', filter: 'linear', encoding: 'data' }, at!),
    },
  ],
  call: scalars('call').flatMap((scalar) =>
    WIDTHS.map((w) => ({
      name: `call ${scalar}${String(w)}`,
      operands: [irType(scalar, w)],
      make: (b: Builder, [of]: readonly Node[]) =>
        b.call(`twice_${scalar}${String(w)}`, 'Two of a kind.', [['of', of!]], (inner, x) =>
          scalar === 'b' ? inner.map('xor', x, x) : inner.add(x, x),
        ),
    })),
  ),
};
const all = Object.values(CASES).flat();

/** The case with operands that vary, none simplified away. */
function built({ make, operands }: Case): { b: Builder; root: Node; args: readonly Node[] } {
  const b = new Builder({ simplify: false });
  const args = operands.map((type, i) => varying(b, type, i + 1));
  return { b, root: make(b, args), args };
}

/** As far apart as 32-bit rounding, and transcendental functions within their bounds, may bring two values. */
const near = (a: number, b: number): boolean => Math.abs(a - b) <= 4e-6 * Math.max(1, Math.abs(a));

describe('every kind of every scalar and width', () => {
  it.each(Object.entries(CASES))('%s is computed alike by the reference, WebAssembly and folding', (_, cases) => {
    const faults: string[] = [];
    for (const c of cases) {
      const { root, args } = built(c);
      const reference = new Reference([root, ...args]);
      const wasm = new WasmEvaluator([root]);
      reference.setFrame({ time: 0, dials: new Map() });
      wasm.setFrame({ time: 0, dials: new Map() });
      const out = new Float32Array(PLACES.length * widthOf(root.type));
      wasm.block({ uv: Float32Array.from(PLACES.flat()) }, PLACES.length, [out]);
      PLACES.forEach((uv, p) => {
        const [value = [], ...operands] = reference.pixel({ uv });
        const got = [...out.subarray(p * value.length, (p + 1) * value.length)];
        if (!value.every((v, i) => near(Math.fround(v), got[i]!)))
          faults.push(`${c.name} at ${uv.join()}: ${value.join()} is ${got.join()} in WebAssembly`);
        if (root.kind === 'sample' || root.kind === 'call') return;
        const folder = new Builder();
        const folded = c.make(
          folder,
          operands.map((v, i) => folder.constant(args[i]!.type, v)),
        );
        if (folded.kind !== 'constant' || !value.every((v, i) => near(v, folded.payload[i]!)))
          faults.push(
            `${c.name} at ${uv.join()}: ${value.join()} folds to ${folded.kind === 'constant' ? folded.payload.join() : folded.kind}`,
          );
      });
    }
    expect(faults).toEqual([]);
  });

  it('is written as GLSL that a real compiler takes', () => {
    const { graph } = compile('out color = 1\n');
    const shaders = all.map((c) => {
      const { b, root } = built(c);
      const { code } = emitShader(GLSL, { ...graph, builder: b, steps: [] }, new Map([['color', root]]));
      return {
        name: c.name,
        source: `#version 300 es\nprecision highp float;\nprecision highp int;\n${code}\nout vec4 o;\nvoid main() { o = vec4(0.0); }\n`,
      };
    });
    expect(all.length).toBeGreaterThan(400);
    expect(glslComplaints(shaders)).toBe('');
  });

  it('is written as HLSL that a real compiler takes', () => {
    const { graph } = compile('out color = 1\n');
    // All in one file: what each declares begins with its own name.
    const codes = all.map((c, i) => {
      const { b, root } = built(c);
      const results = new Map([['color', root]]);
      return emitShader(HLSL, { ...graph, builder: b, steps: [] }, results, `case_${String(i)}`).code;
    });
    const source = `${codes.join('\n')}\nfloat4 main() : SV_Target { return (float4)0.0; }\n`;
    expect(glslComplaints([{ name: 'all', source }], ['-D', '-V', '-S', 'frag', '-e', 'main', '-o', '/dev/null'])).toBe(
      '',
    );
  });
});

it('noise without shifts has none, and each of them is the same for every hash', () => {
  const { graph } = compile('loop 4s at 30fps\nout color = uv |> fbm(4, evolve: 1 lap)\n');
  const { code } = emitShader(GLSL, graph, graph.outputs);
  expect(code).toMatch(/ >> 15\).* << /s);
  expect(forSoftware(code)).not.toMatch(/ >> | << /);
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 0xffffffff }), fc.integer({ min: 8, max: 31 }), (h, n) => {
      const part = Math.fround(Math.fround(h & (0xffffffff << n)) * Math.fround(2 ** -n));
      return (Math.trunc(part) & (2 ** (32 - n) - 1)) === h >>> n;
    }),
  );
});
