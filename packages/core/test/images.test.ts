import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import {
  drawPathMap,
  flattenPath,
  histograms,
  measureSeams,
  packChannels,
  paintFlowMap,
  tileByBlending,
  tileByPatching,
  unpackChannel,
  type ChannelIndex,
  type PixelImage,
} from '../src/index.ts';
import { checked, graphOf, near } from './support.ts';
import { Reference, WasmEvaluator, settingValues } from '../src/index.ts';

/** An 8-bit picture from a function of the pixel's middle. */
function image(width: number, height: number, at: (u: number, v: number) => readonly number[]): PixelImage {
  const data = new Uint8Array(width * height * 4);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      data.set(
        at((x + 0.5) / width, (y + 0.5) / height).map((c) => Math.round(Math.min(Math.max(c, 0), 1) * 255)),
        (y * width + x) * 4,
      );
  return { width, height, data };
}

/** A step of a Wake text as a picture. */
function picture(text: string, size: number, time = 0): Float32Array {
  const program = checked(text);
  const evaluator = new WasmEvaluator([graphOf(text).steps.at(-1)!]);
  evaluator.setFrame({ time, dials: settingValues(program).dials });
  return evaluator.picture(size, size)[0]!;
}
const grey = (values: Float32Array, size: number): PixelImage =>
  image(size, size, (u, v) =>
    Array<number>(3)
      .fill(values[Math.floor(v * size) * size + Math.floor(u * size)]!)
      .concat(1),
  );

const tiling = grey(picture('n = uv |> fbm(cells: 5, octaves: 4)', 96), 96);
// The same noise, cut out of a larger one where it does not repeat, and lit from one side, as a photograph is.
const cut = grey(
  picture('n = (uv |> scale(1.7) |> fbm(cells: 8, octaves: 4)) * (0.5 + uv.x * 0.4 + uv.y * 0.2)', 96),
  96,
);

describe('the seam meter', () => {
  it('tells what tiles from what was cut', () => {
    const [good, bad] = [measureSeams(tiling), measureSeams(cut)];
    for (const edge of [good.u, good.v]) expect(edge.ratio).toBeGreaterThan(0.6);
    for (const edge of [good.u, good.v]) expect(edge.ratio).toBeLessThan(1.5);
    for (const edge of [bad.u, bad.v]) expect(edge.ratio).toBeGreaterThan(3);
  });

  it('is the stated formula, on a picture worked out by hand', () => {
    // Rows 0, 51, 102 and 0, 51, 255 of grey: inside 51 + 51 + 51 + 204 over four neighbours; across 102 and 255.
    const values = [0, 51, 102, 0, 51, 255];
    const { u } = measureSeams({ width: 3, height: 2, data: Uint8Array.from(values.flatMap((g) => [g, g, g, 255])) });
    expect(u.usual).toBeCloseTo((((51 * 3 + 204) / 4) * 0.75) / 255, 12);
    expect([...u.profile]).toEqual([102 / 89.25, 255 / 89.25].map((r) => near(r, 9)));
    expect(u).toMatchObject({ worst: 1 });
    expect(u.ratio).toBeCloseTo(357 / 2 / 89.25, 9);
  });

  it('gives 1 to an even picture and says the same of 8 and 16 bits', () => {
    expect(measureSeams(image(8, 8, () => [0.5, 0.5, 0.5, 1])).u.ratio).toBe(1);
    const wide = { ...cut, data: Uint16Array.from(cut.data, (v) => v * 257) };
    expect(measureSeams(wide).v.ratio).toBeCloseTo(measureSeams(cut).v.ratio, 9);
  });
});

describe('making an image tile', () => {
  it.each([
    ['blending', (i: PixelImage) => tileByBlending(i, { band: 0.25, keepContrast: false })],
    ['blending, contrast kept', (i: PixelImage) => tileByBlending(i, { band: 0.25, keepContrast: true })],
    ['patching', (i: PixelImage) => tileByPatching(i, { band: 0.15 })],
  ] as const)('by %s fixes both edges and leaves the middle', (_, way) => {
    const fixed = way(cut);
    const { u, v } = measureSeams(fixed);
    expect(Math.max(u.ratio, v.ratio)).toBeLessThan(1.8);
    for (let y = 30; y < 66; y++)
      for (let x = 30; x < 66; x++) expect(fixed.data[(y * 96 + x) * 4]).toBe(cut.data[(y * 96 + x) * 4]);
    expect(cut.data).not.toEqual(fixed.data);
  });

  it('keeps the contrast of noise, where asked, and loses it where not', () => {
    const spread = (i: PixelImage): number => {
      const edge = [...i.data].filter(
        (_, n) => n % 4 === 0 && (Math.floor(n / 4) % 96 < 10 || Math.floor(n / 4) % 96 > 85),
      );
      const mean = edge.reduce((a, b) => a + b) / edge.length;
      return Math.sqrt(edge.reduce((a, b) => a + (b - mean) ** 2, 0) / edge.length);
    };
    const noise = grey(picture('n = uv |> white(cells: 96)', 96), 96);
    const [plain, kept] = [false, true].map((keepContrast) =>
      spread(tileByBlending(noise, { band: 0.3, keepContrast })),
    );
    expect(plain! / spread(noise)).toBeLessThan(0.93);
    expect(kept! / spread(noise)).toBeGreaterThan(0.93);
  });

  it('takes any size', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 20 }),
        fc.integer({ min: 1, max: 20 }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (width, height, band) => {
          const small = image(width, height, (u, v) => [u, v, u * v, 1]);
          for (const made of [tileByBlending(small, { band, keepContrast: true }), tileByPatching(small, { band })])
            expect(made.data).toHaveLength(width * height * 4);
        },
      ),
      { numRuns: 100 },
    );
  });
});

describe('channels', () => {
  const source = image(6, 4, (u, v) => [u, v, 0.25, 0.75]);

  it('pack and unpack again', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(3), fc.boolean()), { minLength: 4, maxLength: 4 }), (picks) => {
        const packed = packChannels(
          picks.map(([channel, invert]) => ({ image: source, channel: channel as ChannelIndex, invert, constant: 0 })),
          6,
          4,
          8,
        );
        picks.forEach(([channel, invert], c) => {
          const back = unpackChannel(packed, c as ChannelIndex);
          for (let i = 0; i < 24; i++) {
            const value = source.data[i * 4 + channel]!;
            expect([...back.data.subarray(i * 4, i * 4 + 4)]).toEqual([
              ...Array<number>(3).fill(invert ? 255 - value : value),
              255,
            ]);
          }
        });
      }),
    );
  });

  it('bring sizes together: means where smaller, between where larger', () => {
    const of = (width: number, height: number): number[] =>
      [...packChannels([{ image: source, channel: 0, invert: false, constant: 0 }], width, height, 8).data].filter(
        (_, i) => i % 4 === 0,
      );
    expect(of(3, 1)).toEqual([0, 1, 2].map((i) => near((source.data[i * 8]! + source.data[i * 8 + 4]!) / 2, -0.3)));
    const wide = of(12, 4).slice(0, 12);
    expect(wide).toEqual([...wide].sort((a, b) => a - b));
    expect(packChannels([], 2, 2, 16).data).toEqual(new Uint16Array(16));
  });

  it('are counted', () => {
    const [r, , b, a] = histograms(source);
    expect(r.counts.reduce((x, y) => x + y)).toBe(24);
    expect(b).toMatchObject({ low: 64 / 255, high: 64 / 255 });
    expect(a.counts[191]).toBe(24);
  });
});

describe('path maps', () => {
  const ring = {
    points: [0, 1, 2, 3, 4, 5, 6, 7].map((i) => ({
      x: 0.5 + 0.3 * Math.cos((i / 4) * Math.PI),
      y: 0.5 + 0.3 * Math.sin((i / 4) * Math.PI),
      width: 0.2,
    })),
    closed: true,
    size: 128,
  };
  const part = (map: PixelImage, u: number, v: number): number[] => {
    const at = (Math.floor(v * map.height) * map.width + Math.floor(u * map.width)) * 4;
    return [...map.data.subarray(at, at + 4)].map((value) => value / 65535);
  };

  it('measure the way by arc length and the place across by side', () => {
    const map = drawPathMap(ring);
    // Points run clockwise as seen, v down; a circle's arc length is its angle.
    for (const turn of [0.1, 0.3, 0.55, 0.8]) {
      const [cos, sin] = [Math.cos(turn * 2 * Math.PI), Math.sin(turn * 2 * Math.PI)];
      const [along, across, covered, check] = part(map, 0.5 + 0.3 * cos, 0.5 + 0.3 * sin);
      expect(along).toBeCloseTo(turn, 1.7);
      expect(across).toBeCloseTo(0.5, 1);
      expect(covered).toBe(1);
      expect(check).toBeCloseTo(1 - Math.abs(2 * along! - 1), 3);
      // Going clockwise, the middle of the ring is at the right hand.
      expect(part(map, 0.5 + 0.24 * cos, 0.5 + 0.24 * sin)[1]).toBeGreaterThan(0.7);
      expect(part(map, 0.5 + 0.36 * cos, 0.5 + 0.36 * sin)[1]).toBeLessThan(0.3);
    }
    expect(part(map, 0.5, 0.5)[2]).toBe(0);
    expect(map.data).toBeInstanceOf(Uint16Array);
  });

  it('end square when open, and go round the edges of the square', () => {
    const map = drawPathMap({
      points: [
        { x: 0.8, y: 0.5, width: 0.2 },
        { x: 1.2, y: 0.5, width: 0.2 },
      ],
      closed: false,
      size: 100,
    });
    expect([0.85, 0.95, 0.05, 0.15].map((u) => part(map, u, 0.5)[0])).toEqual(
      [0.1375, 0.3875, 0.6375, 0.8875].map((x) => near(x, 2)),
    );
    expect([0.75, 0.25].map((u) => part(map, u, 0.5)[2])).toEqual([0, 0]);
    // Travelling to the right, the right hand is below.
    expect(part(map, 0.9, 0.57)[1]).toBeGreaterThan(0.8);
  });

  it('take any points', () => {
    const point = fc.record({
      x: fc.double({ min: -1, max: 2, noNaN: true }),
      y: fc.double({ min: -1, max: 2, noNaN: true }),
      width: fc.double({ min: 0, max: 1, noNaN: true }),
    });
    fc.assert(
      fc.property(fc.array(point, { maxLength: 6 }), fc.boolean(), fc.boolean(), (points, closed, twice) => {
        const samples = flattenPath({ points: twice ? points.flatMap((p) => [p, p]) : points, closed, size: 8 });
        expect(samples.every((s) => [s.x, s.y, s.width, s.along].every(Number.isFinite))).toBe(true);
        expect(samples.every((s, i) => i === 0 || s.along >= samples[i - 1]!.along)).toBe(true);
        expect(drawPathMap({ points, closed, size: 8 }).data).toHaveLength(256);
      }),
      { numRuns: 60 },
    );
  });

  it('are followed without a hairline where a closed path starts over', () => {
    const map = drawPathMap(ring);
    const text = 'image path_map = "way" clamp linear data\nplace = uv |> sample(path_map) |> follow(0 laps)';
    const reference = new Reference([graphOf(text).steps.at(-1)!], () => map);
    reference.setFrame({ time: 0, dials: new Map() });
    // Across the start, at the ring's right: in steps much finer than a texel the way along stays within a texel of 0
    // or 1.
    for (let i = -40; i <= 40; i++) {
      const [along] = reference.pixel({ uv: [0.8, 0.5 + i / 128 / 20] })[0]!;
      expect(Math.min(along!, 1 - along!)).toBeLessThan(0.012);
    }
  });
});

describe('flow maps', () => {
  const stroke = {
    points: [
      { x: 0.3, y: 0.5 },
      { x: 0.7, y: 0.5 },
    ],
    radius: 0.15,
    strength: 1,
  };
  const part = (map: PixelImage, u: number, v: number): number[] =>
    [...map.data.subarray((Math.floor(v * map.height) * map.width + Math.floor(u * map.width)) * 4)]
      .slice(0, 3)
      .map((x) => x / 65535);

  it('hold the direction of the stroke, up being up', () => {
    const right = paintFlowMap({ strokes: [stroke], smooth: 0, size: 64 });
    const [x, y, strength] = part(right, 0.5, 0.5);
    expect(x).toBeGreaterThan(0.97);
    expect(y).toBeCloseTo(0.5, 3);
    expect(strength).toBeGreaterThan(0.95);
    expect(part(right, 0.1, 0.1)).toEqual([0.5, 0.5, 0].map((v) => near(v, 4)));
    const up = paintFlowMap({
      strokes: [
        stroke,
        {
          ...stroke,
          points: [
            { x: 0.5, y: 0.7 },
            { x: 0.5, y: 0.3 },
          ],
        },
      ],
      smooth: 0,
      size: 64,
    });
    expect(part(up, 0.5, 0.5)[1]).toBeGreaterThan(0.97);
    expect(
      part(paintFlowMap({ strokes: [stroke, { ...stroke, strength: 0 }], smooth: 0, size: 64 }), 0.5, 0.5)[2],
    ).toBeLessThan(0.05);
  });

  it('smooth without losing any drift, and tile', () => {
    const sum = (map: PixelImage): number =>
      [...map.data].filter((_, i) => i % 4 === 0).reduce((a, b) => a + b / 65535 - 0.5, 0);
    const [sharp, soft] = [0, 0.1].map((smooth) => paintFlowMap({ strokes: [stroke], smooth, size: 64 }));
    expect(sum(soft!)).toBeCloseTo(sum(sharp!), 0);
    const over = paintFlowMap({
      strokes: [
        {
          ...stroke,
          points: [
            { x: 0.9, y: 0.5 },
            { x: 1.2, y: 0.5 },
          ],
        },
      ],
      smooth: 0.03,
      size: 64,
    });
    expect(part(over, 0.02, 0.5)[0]).toBeGreaterThan(0.8);
    expect(measureSeams(over).u.ratio).toBeLessThan(2);
  });
});
