import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import {
  compile,
  jsModule,
  materialPackage,
  packageCode,
  TARGETS,
  type PackageHost,
  type PackageImage,
} from '../src/index.ts';
import { packageShaders } from '../src/exchange/package/shaders.ts';
import { testGrid } from '../src/image/test-grid.ts';
import { sampled } from './judging.ts';
import { program } from './random-programs.ts';
import { demoMaterials, checked } from './support.ts';

/** Lends what a package asks for, with a zlib stream that is not compressed. */
const host: PackageHost = {
  player: '<body><!-- package --></body>',
  deflate: (bytes) => bytes.subarray(0, 16),
  sha256: (bytes) => bytes.length.toString(16).padStart(64, '0'),
  base64: (bytes) => Buffer.from(bytes).toString('base64'),
  utf8: (text) => Buffer.from(text),
  png: () => new Uint8Array([4, 5, 6, 7]),
};
const image = (type: string): PackageImage => ({
  ...testGrid(),
  type,
  bytes: new Uint8Array([1, 2, 3]),
});
const made = (text: string, images: ReadonlyMap<string, PackageImage> = new Map(), more: object = {}) =>
  materialPackage(checked(text), { targets: TARGETS, images, ...more }, host);
const textIn = (files: ReadonlyMap<string, Uint8Array>, name: string): string =>
  Buffer.from(files.get(name) ?? []).toString();

interface FrameModule {
  readonly frame: (dials: object, seconds: number) => Record<string, number | number[]>;
  readonly frameAt: (dials: object, index: number) => Record<string, number | number[]>;
  readonly dials: Readonly<Record<string, { readonly default: number | readonly number[] }>>;
}
const importText = (code: string): Promise<FrameModule> =>
  import(`data:text/javascript;base64,${Buffer.from(code).toString('base64')}`) as Promise<FrameModule>;

describe('the period of a package', () => {
  it('is the loop where it closes, the common period of rates where there is one, and else not known', () => {
    const period = (line: string): number | undefined =>
      packageShaders(checked(`loop 2s at 30fps\n${line}\nout color = (at |> fbm(4))\n`), {})[0].returns?.seconds;
    expect(period('at = uv |> pan(1/s)')).toBe(2);
    expect(period('at = uv |> pan(0.3/s)')).toBe(10);
    expect(period('at = uv |> pan(0.3/s) |> pan(0.25/s, heading: 90deg)')).toBe(20);
    expect(period('at = uv |> pan(0.314159265/s)')).toBeUndefined();
  });

  it('leads to the same 32-bit values, and frame by frame to the same bits, until a dial it hangs on is turned', async () => {
    const materials = [
      ...demoMaterials,
      ...fc.sample(program, sampled(60, 18)).map((text, i) => ({ name: `random-${String(i)}`, text })),
    ];
    let counted = 0;
    for (const { name, text } of materials) {
      if (!compile(text).ok) continue;
      for (const shader of packageShaders(checked(text), {})) {
        const { returns } = shader;
        if (!returns) continue;
        const { frame, frameAt, dials } = await importText(jsModule(shader));
        const { fps } = shader.program.loop;
        const frames = Math.round(returns.seconds * fps);
        const fixed = new Set(returns.dials.map((d) => d.name));
        const turned = Object.fromEntries(
          shader.shader.dials.flatMap(({ name: field, dial }) =>
            fixed.has(dial.name) || dial.type !== 'number' ? [] : [[field, Number(dials[field]!.default) + 0.125]],
          ),
        );
        for (const values of [{}, turned])
          for (const index of [0, 1, 7, frames - 1]) {
            expect([name, frameAt(values, index + frames)]).toEqual([name, frameAt(values, index)]);
            expect([name, frameAt(values, index - frames)]).toEqual([name, frameAt(values, index)]);
            counted++;
          }
        // Between frames: times whose sum with the period is exact.
        for (const time of [0.0625, 0.34375, 1.03125])
          if (Number.isInteger(returns.seconds * 32))
            expect([name, frame({}, time + returns.seconds)]).toEqual([name, frame({}, time)]);
      }
    }
    expect(counted).toBeGreaterThan(100);
  });
});

describe('a package', () => {
  it('has one shader for each way that variants set the switches, all in its manifest and its page', () => {
    const { text } = demoMaterials.find(({ name }) => name.startsWith('notice-ribbon'))!;
    const files = made(text);
    const { shaders, variants } = JSON.parse(textIn(files, 'notice-ribbon.json')) as {
      readonly shaders: readonly { readonly name: string; readonly variants: readonly (string | null)[] }[];
      readonly variants: object;
    };
    expect(shaders.map((s) => s.name)).toEqual(['notice-ribbon', 'notice-ribbon.2']);
    expect(shaders.flatMap((s) => s.variants).sort()).toEqual([...Object.keys(variants), null].sort());
    for (const target of TARGETS)
      for (const { name } of shaders) expect(files.has(`${name}.${target === 'c' ? 'h' : target}`)).toBe(true);
    expect(textIn(files, 'index.html').match(/return \{ dials, variants, frame \}/g)).toHaveLength(2);
  });

  it('keeps files as they came, and writes as PNG what others read otherwise', () => {
    const text =
      'loop 1s at 8fps\nimage a = "a/b.png"\nimage b = "A b.PNG"\nimage c = "c.gif"\nimage d = "gone.png"\nout color = ((uv |> sample(a)) + (uv |> sample(b)) + (uv |> sample(c)) + (uv |> sample(d))).rgb\n';
    const files = made(
      text,
      new Map([
        ['a/b.png', image('png')],
        ['A b.PNG', image('png')],
        ['c.gif', image('gif')],
      ]),
    );
    const { textures } = JSON.parse(textIn(files, 'material.json')) as { readonly textures: readonly object[] };
    expect(textures).toMatchObject([
      { source: 'a/b.png', file: 'textures/a-b.png', bytes: 3, converted: false },
      { source: 'A b.PNG', file: 'textures/A-b-2.png', bytes: 3 },
      { source: 'c.gif', file: 'textures/c.png', bytes: 4, converted: true },
      { source: 'gone.png', file: null },
    ]);
    expect([...files.get('textures/c.png')!]).toEqual([4, 5, 6, 7]);
    expect(textIn(files, 'README.md')).toContain('gone.png (missing)');
  });

  it('turns normals where it is asked to', () => {
    const text = 'loop 1s at 8fps\nsurface lit opaque\nout color = (1, 1, 1)\nout normal = (uv |> fbm(4)) |> bump(1)\n';
    const [up, down] = (['up', 'down'] as const).map((normalY) =>
      packageCode(checked(text), { targets: ['glsl'], normalY }),
    );
    expect(down!.get('material.glsl')).not.toBe(up!.get('material.glsl'));
    expect(JSON.parse(down!.get('material.json')!)).toMatchObject({ normals: 'y down' });
  });

  it('is not broken by what a text holds', () => {
    const text =
      'material "a </script><script>alert(1)</script> | `x`"\nloop 1s at 8fps\ndial d: number = 1 in 0..2 "</script><!-- <script> | *b*"\nout color = (d, d, d)\n';
    const page = textIn(made(text), 'index.html');
    // The browser ends a script at the first such end, and swallows none after a comment's begin.
    expect(page.match(/<\/script/gi)).toHaveLength(1);
    expect(page.match(/<script|<!--/gi)).toHaveLength(1);
    const note = textIn(made(text), 'README.md');
    expect(note).not.toMatch(/<script/i);
    const rows = note.split('\n').filter((line) => line.startsWith('| `d`'));
    expect(rows).toHaveLength(1);
    expect(rows[0]!.replaceAll('\\|', '').split('|')).toHaveLength(7);
  });

  it('is refused where the material has errors', () => {
    expect(() => made('loop 1s at 8fps\nout color = nothing\n')).toThrow(/nothing/);
  });
});
