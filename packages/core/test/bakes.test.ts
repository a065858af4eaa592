import { constants, deflateRawSync } from 'node:zlib';
import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { PNG } from 'pngjs';
import {
  bakeFiles,
  bakeManifest,
  bakePlan,
  BakeRefused,
  bakeSignature,
  Baker,
  bandMaker,
  CHANNELS,
  check,
  compileOrThrow,
  enoughFrames,
  flipbookText,
  frameCount,
  framesIn,
  halfSize,
  parse,
  readPack,
  type BakeRecipe,
  type DeflateBand,
  type FrameChoice,
  type ImageSource,
  type Program,
} from '../src/index.ts';
import { writtenPick } from '../src/bake/pack.ts';
import { demoMaterials } from './support.ts';

const deflate: DeflateBand = (bytes, last) =>
  new Uint8Array(deflateRawSync(bytes, { finishFlush: last ? constants.Z_FINISH : constants.Z_SYNC_FLUSH }));
const none: ImageSource = () => undefined;
const read = (text: string): Program => check(parse(text));

const program = read(`material "Both sides"
loop 2s at 12fps
surface lit blend two-sided
dial k = 0.5 in 0..1
out color = (uv.x, k, saw(1 lap))
out emissive = (0, uv.y, 1)
out opacity = uv.y
out normal = (0, 0, 1)
out roughness = 0.5
`);

async function filesOf(of: Program, recipe: BakeRecipe, images = none): Promise<Map<string, PNG>> {
  const plan = bakePlan(of, recipe);
  const make = bandMaker(of, plan, images, deflate);
  const bands = (async function* () {
    for (const i of plan.bands.keys()) yield Promise.resolve(make(i));
  })();
  const parts = new Map<string, Uint8Array[]>();
  for await (const { file, bytes } of bakeFiles(plan, bands))
    parts.set(file.name, [...(parts.get(file.name) ?? []), bytes]);
  return new Map([...parts].map(([name, all]) => [name, PNG.sync.read(Buffer.concat(all))]));
}

const pick = fc.oneof(
  fc.constantFrom('color.r', 'color.a', 'emissive.b', 'normal.x', 'opacity', 'roughness'),
  fc.constantFrom('0', '1', '0.5'),
);

describe('a packing', () => {
  it('reads as it is written', () => {
    fc.assert(
      fc.property(fc.tuple(pick, pick, pick, pick), (picks) => {
        const pack = readPack(picks.map((p, i) => `${'rgba'[i]!}=${p}`).join(' '));
        expect(typeof pack === 'string' ? pack : pack.map(writtenPick)).toEqual(picks);
      }),
    );
  });

  it('holds in each channel what that output has by itself', async () => {
    const common: BakeRecipe = { format: 'sequence', size: [7, 5], frames: [3, 3], samples: 2 };
    const alone = async (output: (typeof CHANNELS)[number]): Promise<Buffer> =>
      [...(await filesOf(program, { ...common, outputs: [output] })).values()][0]!.data;
    const [color, opacity, normal] = [await alone('color'), await alone('opacity'), await alone('normal')];
    const [packed] = (await filesOf(program, { ...common, pack: 'r=color.b g=color.a b=opacity a=normal.z' })).values();
    for (let i = 0; i < 35; i++)
      expect([...packed!.data.subarray(i * 4, i * 4 + 4)]).toEqual([
        // What a picture of a colour does not cover is clear.
        color[i * 4 + 3] === 0 ? expect.any(Number) : color[i * 4 + 2],
        color[i * 4 + 3],
        opacity[i * 4],
        normal[i * 4 + 2],
      ]);
  });

  it('of alpha alone is no picture of sRGB', () => {
    const imagesOf = (pack: string): unknown => {
      const recipe: BakeRecipe = { format: 'sheet', size: [4, 4], frames: 'all', pack };
      return (bakeManifest(bakePlan(program, recipe)) as { images: unknown }).images;
    };
    expect(imagesOf('r=color.a g=color.a')).toMatchObject([{ srgb: false, channels: { r: { encoding: 'linear' } } }]);
    expect(imagesOf('r=color.r a=color.a')).toMatchObject([{ srgb: true, channels: { r: { encoding: 'srgb' } } }]);
  });

  it.each([
    '',
    'r',
    'x=color.r',
    'r=color',
    'r=color.x',
    'r=opacity.r',
    'r=2',
    'r=nothing',
    'r=color.r r=opacity',
    'r=color.rg',
  ])('%j is refused in a sentence', (text) => {
    expect(readPack(text)).toMatch(/^['AS].+\.$/);
  });
});

/** Mostly left out. */
const seldom = <T>(of: fc.Arbitrary<T>): fc.Arbitrary<T | undefined> =>
  fc.oneof({ weight: 5, arbitrary: fc.constant(undefined) }, { weight: 1, arbitrary: of });

const recipes = fc
  .record({
    format: fc.constantFrom('sequence', 'sheet', 'apng'),
    size: fc.tuple(fc.integer({ min: 1, max: 900 }), fc.integer({ min: 1, max: 900 })),
    frames: fc.oneof(
      fc.constant('all'),
      fc.record({ count: fc.integer({ min: 1, max: 40 }) }),
      fc.record({ list: fc.array(fc.integer({ min: 0, max: 24 }), { maxLength: 6 }) }),
      fc.tuple(fc.integer({ min: 0, max: 12 }), fc.integer({ min: 10, max: 24 })),
    ),
    every: seldom(fc.integer({ min: 0, max: 5 })),
    outputs: seldom(fc.subarray([...CHANNELS])),
    pack: seldom(fc.constantFrom('r=opacity', 'r=color.r a=emissive.g', 'orm', 'nonsense')),
    columns: seldom(fc.integer({ min: 0, max: 50 })),
    powerOfTwo: seldom(fc.boolean()),
    bits: seldom(fc.constantFrom(8, 16)),
    samples: seldom(fc.integer({ min: 1, max: 3 })),
    bleed: seldom(fc.integer({ min: 0, max: 70 })),
    spread: seldom(fc.boolean()),
    premultiply: seldom(fc.boolean()),
    variant: seldom(fc.constant('none')),
    values: seldom(fc.constantFrom({ k: '0.2' }, { k: 'on' })),
  })
  .map((all) => Object.fromEntries(Object.entries(all).filter(([, v]) => v !== undefined)) as unknown as BakeRecipe);

describe('a plan', () => {
  it('covers all its frames once, in bands, chunks and files; or is refused in a sentence', () => {
    let planned = 0;
    fc.assert(
      fc.property(recipes, (recipe) => {
        let plan: ReturnType<typeof bakePlan>;
        try {
          plan = bakePlan(program, recipe);
        } catch (error) {
          expect(error).toBeInstanceOf(BakeRefused);
          expect((error as Error).message).toMatch(/^['A-Z].*\.$/);
          return;
        }
        planned++;
        expect(plan.bands.reduce((sum, band) => sum + framesIn(plan, band), 0)).toBeCloseTo(frameCount(plan), 6);
        expect(plan.chunks.reduce((at, { first, end }) => (first === at && end > first ? end : NaN), 0)).toBe(
          plan.bands.length,
        );
        expect(plan.files.reduce((sum, f) => sum + f.count, 0)).toBe(plan.pictures.length * plan.images.length);
        expect(new Set(plan.files.map((f) => f.name)).size).toBe(plan.files.length);
        const { frames } = bakeManifest(plan) as { frames: { x: number; y: number; width: number; height: number }[] };
        const [file] = plan.files;
        for (const { x, y, width, height } of frames)
          expect(x >= 0 && y >= 0 && x + width <= file!.width && y + height <= file!.height).toBe(true);
      }),
      { numRuns: 400 },
    );
    expect(planned).toBeGreaterThan(40);
  });

  it('of evenly spread frames has them where they belong, and says how fast they play', () => {
    expect(bakePlan(program, { format: 'sheet', size: [4, 4], frames: { count: 9 } })).toMatchObject({
      frames: Array.from({ length: 9 }, (_, i) => (i * 24) / 9),
      rate: 4.5,
      closes: true,
    });
    expect(bakePlan(program, { format: 'sheet', size: [4, 4], frames: 'all', every: 5 })).toMatchObject({
      frames: [0, 5, 10, 15, 20],
      rate: 2.4,
      closes: false,
    });
  });
});

describe('a flipbook', () => {
  it.each(demoMaterials)('of $name, read back by flipbook(), gives the live frames', async ({ text }) => {
    const live = read(text);
    const [columns, rows, side] = [4, 2, 24];
    const [sheet] = (
      await filesOf(live, { format: 'sheet', size: [side, side], frames: { count: columns * rows }, columns })
    ).values();
    const back = read(`loop ${String(live.loop.seconds)}s at ${String(live.loop.fps)}fps
surface unlit blend two-sided
image sheet = "sheet.png"
frame = uv |> flipbook(${String(columns)}, ${String(rows)}, 1 lap) |> sample(sheet)
out color = frame.rgb
out opacity = frame.a
`);
    expect(back.diagnostics.filter((d) => d.severity === 'error')).toEqual([]);
    const plan = bakePlan(live, { format: 'sheet', size: [side, side], frames: { count: columns * rows }, columns });
    const texts = [back, ...[false, true].map((blended) => read(flipbookText(plan, 'sheet.png', blended)))];
    const image = { width: sheet!.width, height: sheet!.height, data: new Uint8Array(sheet!.data) };
    const options = { output: 'color', width: side, height: side, samples: 1 } as const;
    const own = Baker.of(live, compileOrThrow(live).values, options, none)!;
    const players = texts.map((by) => Baker.of(by, compileOrThrow(by).values, options, () => image)!);
    for (const played of players)
      for (let i = 0; i < columns * rows; i++) {
        const moment = (i * live.loop.frames) / (columns * rows);
        const [a, b] = [own.frame(moment), played.frame(moment)];
        // Of what is nearly clear little of the colour is kept.
        const apart = a.map((v, at) => (a[at - (at % 4) + 3]! < 8 && at % 4 < 3 ? 0 : Math.abs(v - b[at]!)));
        expect(Math.max(...apart)).toBeLessThanOrEqual(1);
      }
  });
});

/** Runs a measurement to its end; what it told on the way only grows. */
function measured(of: Program): readonly FrameChoice[] | undefined {
  const run = enoughFrames(of, compileOrThrow(of).values, none, 16);
  for (let told = 0; ;) {
    const { value, done } = run.next();
    if (done) return value;
    expect(value).toBeGreaterThan(told);
    told = value;
  }
}

describe('how many frames are enough', () => {
  it('is none more for what stands still, and nothing for what puts out no colour', () => {
    const still = measured(read('loop 2s at 12fps\nout color = (uv.x, uv.y, 0)\n'))!;
    for (const { held, blended } of still)
      expect([held, blended]).toEqual([
        { mean: 0, largest: 0 },
        { mean: 0, largest: 0 },
      ]);
    expect(measured(read('loop 2s at 12fps\nout roughness = 0.5\n'))).toBeUndefined();
  });

  it('is told by what mixing does: a fade needs few frames that are mixed, many that are held', () => {
    const fade = measured(read('loop 2s at 12fps\nout color = abs(saw(1 lap) * 2 - 1)\n'))!;
    for (const [i, { count, held, blended }] of fade.entries()) {
      // Its corners stand on frames: between two of them light changes evenly, which is what mixing gives.
      expect(blended.largest).toBeLessThanOrEqual(2);
      expect(held.mean).toBeGreaterThan(blended.mean);
      if (i > 0) expect(held.mean).toBeLessThan(fade[i - 1]!.held.mean);
      expect(count).toBe(4 * 2 ** i);
    }
    // A saw falls at once, which no mixing meets.
    expect(measured(read('loop 2s at 12fps\nout color = saw(1 lap)\n'))!.at(-1)!.blended.largest).toBeGreaterThan(60);
  });
});

describe('half the size', () => {
  it('loses nothing of what is smooth, and all of what is finer than its pixels', () => {
    const of = (text: string) => {
      const it = read(text);
      return halfSize(it, compileOrThrow(it).values, none, [64, 48]);
    };
    expect(of('loop 1s at 4fps\nout color = 0.5\n')).toEqual({ mean: 0, largest: 0 });
    expect(of('loop 1s at 4fps\nout color = uv |> fbm(2, octaves: 1)\n')!.mean).toBeLessThan(1);
    expect(of('loop 1s at 4fps\nout color = uv |> checker(31)\n')!.mean).toBeGreaterThan(40);
    expect(of('loop 1s at 4fps\nout roughness = 0.5\n')).toBeUndefined();
  });
});

describe('the signature of a bake', () => {
  const recipe: BakeRecipe = { format: 'sheet', size: [8, 8], frames: 'all' };
  const text =
    'loop 4s at 30fps\nimage a = "a.png"\nb = uv |> pan(1 lap) |> sample(a)\nout color = b\nout roughness = 0.5\n';
  const of = (t: string, more: Partial<BakeRecipe> = {}, hash = 'h') =>
    bakeSignature(read(t), { ...recipe, ...more }, () => hash);

  it('stays with names, comments and other outputs, and changes with all that is seen', () => {
    const now = of(text);
    expect(of(text.replaceAll(/\bb\b/g, 'c').replace('0.5', '0.7 // other'))).toBe(now);
    // At quarters of the loop one lap and five are the same.
    for (const other of [of(text.replace('1 lap', '5 laps')), of(text, {}, 'i'), of(text.replace('4s', '2s'))])
      expect(other).not.toBe(now);
    expect(of(text, { outputs: ['roughness'] })).not.toBe(now);
    expect(of(text, { outputs: ['normal'] })).toBeUndefined();
  });
});
