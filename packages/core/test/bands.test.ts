import { constants, deflateRawSync, inflateSync } from 'node:zlib';
import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { PNG } from 'pngjs';
import {
  bakeBand,
  Baker,
  bandsOf,
  check,
  parse,
  pictureSize,
  PngWriter,
  sheetOf,
  spreadColor,
  type DeflateBand,
} from '../src/index.ts';
import { encodeByteStore, SRGB_TABLE_BYTES, srgbTable } from '../src/backends/wasm/store-bytes.ts';
import { srgbByte } from '../src/ops/srgb.ts';
import { bandOf } from '../src/bake/png-bands.ts';
import { filtered } from '../src/bake/png-chunks.ts';
import { fromSrgb } from '../src/ops/srgb.ts';

const deflate: DeflateBand = (bytes, last) =>
  new Uint8Array(deflateRawSync(bytes, { finishFlush: last ? constants.Z_FINISH : constants.Z_SYNC_FLUSH }));

/** A picture of noise that is cut into bands at some of its rows. */
const cutPicture = fc.record({
  width: fc.integer({ min: 1, max: 40 }),
  height: fc.integer({ min: 1, max: 24 }),
  seed: fc.integer(),
  cuts: fc.array(fc.integer({ min: 1, max: 23 }), { maxLength: 6 }),
});
interface CutPicture {
  readonly width: number;
  readonly height: number;
  readonly seed: number;
  readonly cuts: readonly number[];
}

/** Smooth in part, so that it is compressed, and of every byte. */
const pixelsOf = ({ width, height, seed }: CutPicture, frame = 0): Uint8Array =>
  Uint8Array.from({ length: width * height * 4 }, (_, i) =>
    i % 3 === 0 ? i >> 3 : Math.imul(i + frame * 7919 + seed, 2654435761) >>> 24,
  );

const bandsIn = ({ width, height, cuts }: CutPicture, data: Uint8Array) => {
  const rows = [...new Set([0, ...cuts.filter((c) => c < height), height])].sort((a, b) => a - b);
  return rows.slice(1).map((end, i) => ({
    band: bandOf(data.subarray(rows[i]! * width * 4, end * width * 4), { width, pixel: 4 }, end === height, deflate),
    last: end === height,
  }));
};

describe('a PNG from bands', () => {
  it('reads as its pixels, however it is cut', () => {
    fc.assert(
      fc.property(cutPicture, fc.boolean(), (picture, linear) => {
        const data = pixelsOf(picture);
        const writer = new PngWriter({ ...picture, linear });
        const parts = bandsIn(picture, data).map(({ band, last }) => writer.band(band, last));
        const png = PNG.sync.read(Buffer.concat([writer.start(), ...parts, writer.end()]));
        expect([png.width, png.height, Buffer.compare(png.data, data)]).toEqual([picture.width, picture.height, 0]);
      }),
      { numRuns: 200 },
    );
  });

  it('is an animation, each frame a stream of its own, its chunks counted through', () => {
    fc.assert(
      fc.property(cutPicture, fc.integer({ min: 1, max: 4 }), (picture, count) => {
        const writer = new PngWriter({ ...picture, frames: { count, delay: { num: 1, den: 30 } } });
        const parts = Array.from({ length: count }, (_, frame) =>
          bandsIn(picture, pixelsOf(picture, frame)).map(({ band, last }) => writer.band(band, last)),
        );
        const file = Buffer.concat([writer.start(), ...parts.flat(), writer.end()]);
        const streams: Buffer[][] = [];
        let sequence = 0;
        for (let at = 8; at < file.length; at += file.readUInt32BE(at) + 12) {
          const type = file.toString('latin1', at + 4, at + 8);
          const data = file.subarray(at + 8, at + 8 + file.readUInt32BE(at));
          if (type === 'fcTL' || type === 'fdAT') expect(data.readUInt32BE(0)).toBe(sequence++);
          if (type === 'fcTL') streams.push([]);
          if (type === 'IDAT') streams.at(-1)!.push(data);
          if (type === 'fdAT') streams.at(-1)!.push(data.subarray(4));
        }
        // Each is a whole zlib stream: its checksum is that of all bands.
        expect(streams.map((s) => inflateSync(Buffer.concat(s)).length)).toEqual(
          Array.from({ length: count }, () => (picture.width * 4 + 1) * picture.height),
        );
      }),
      { numRuns: 50 },
    );
  });
});

describe('bands of a sheet', () => {
  const program = check(
    parse('loop 1s at 8fps\nsurface unlit blend two-sided\nout color = (uv.x, uv.y, saw(1 lap))\nout opacity = uv.x\n'),
  );
  const values = { dials: new Map(), switches: new Map() };

  it('together are the frames side by side, whatever the columns', () => {
    for (const [columns, count] of [
      [1, 1],
      [3, 8],
      [8, 8],
      [5, 7],
    ] as const) {
      const size = { width: 6, height: 5 };
      const baker = Baker.of(program, values, { ...size, output: 'color', samples: 1 }, () => undefined)!;
      const layout = { columns, frames: Array.from({ length: count }, (_, i) => i) };
      const whole = sheetOf(
        layout.frames.map((frame) => ({ ...size, data: baker.frame(frame) })),
        columns,
      );
      const { width, height } = pictureSize(layout, size);
      expect([width, height]).toEqual([whole.width, whole.height]);
      // Cut where cells begin and end, and within them.
      for (const rows of [1, 2, 5, 7, height]) {
        const writer = new PngWriter({ width, height });
        const parts: Uint8Array[] = [writer.start()];
        for (let first = 0; first < height; first += rows) {
          const end = Math.min(height, first + rows);
          const place = { picture: 0, first, end, last: end === height };
          parts.push(writer.band(bakeBand(baker, [layout], place, deflate), place.last));
        }
        const png = PNG.sync.read(Buffer.concat([...parts, writer.end()]));
        expect([columns, rows, Buffer.compare(png.data, whole.data)]).toEqual([columns, rows, 0]);
      }
    }
  });

  it('repeat the edges of each frame as far as is asked, and nothing else changes', () => {
    const size = { width: 6, height: 5 };
    const baker = Baker.of(program, values, { ...size, output: 'color', samples: 1 }, () => undefined)!;
    const layout = { columns: 3, frames: [0, 1, 2, 3, 4] };
    const cells = { bleed: 2, spread: false };
    const { width, height } = pictureSize(layout, size, cells);
    expect([width, height]).toEqual([30, 18]);
    for (const rows of [1, 4, 18]) {
      const writer = new PngWriter({ width, height });
      const parts: Uint8Array[] = [writer.start()];
      for (let first = 0; first < height; first += rows) {
        const place = { picture: 0, first, end: Math.min(height, first + rows), last: first + rows >= height };
        parts.push(writer.band(bakeBand(baker, [layout], place, deflate, cells), place.last));
      }
      const { data } = PNG.sync.read(Buffer.concat([...parts, writer.end()]));
      const wrong: string[] = [];
      for (let y = 0; y < height; y++)
        for (let x = 0; x < width; x++) {
          const frame = layout.frames[Math.floor(y / 9) * 3 + Math.floor(x / 10)];
          const [u, v] = [Math.min(Math.max((x % 10) - 2, 0), 5), Math.min(Math.max((y % 9) - 2, 0), 4)];
          const own =
            frame === undefined ? [0, 0, 0, 0] : baker.frame(frame).subarray((v * 6 + u) * 4, (v * 6 + u) * 4 + 4);
          const at = (y * width + x) * 4;
          if (own.some((value: number, i: number) => value !== data[at + i])) wrong.push(`${String(x)},${String(y)}`);
        }
      expect(wrong).toEqual([]);
    }
  });

  it('of 16 bits say the same as those of 8, more finely', () => {
    const size = { width: 16, height: 9 };
    const both = (output: 'color' | 'opacity', premultiply: boolean) =>
      ([8, 16] as const).map((bits) => {
        const options = { ...size, output, samples: 2, bits, premultiply };
        const baker = Baker.of(program, values, options, () => undefined)!;
        const writer = new PngWriter({ ...size, bits });
        const place = { picture: 0, first: 0, end: size.height, last: true };
        const band = bakeBand(baker, [{ columns: 1, frames: [3] }], place, deflate);
        const file = Buffer.concat([writer.start(), writer.band(band, true), writer.end()]);
        const { data }: { data: ArrayLike<number> } = PNG.sync.read(file, { skipRescale: true });
        return data;
      });
    for (const [channel, premultiply] of [
      ['color', false],
      ['color', true],
      ['opacity', false],
    ] as const) {
      const [coarse, fine] = both(channel, premultiply);
      const errors = Array.from(coarse!, (v, i) => Math.abs(fine![i]! / 257 - v));
      expect(errors).toHaveLength(16 * 9 * 4);
      expect(Math.max(...errors)).toBeLessThan(0.502);
      if (channel === 'color')
        expect(new Set(Array.from(fine!)).size).toBeGreaterThan(new Set(Array.from(coarse!)).size);
    }
  });

  it('cover every row once, in order, and are of about one size', () => {
    fc.assert(
      fc.property(
        fc.record({ width: fc.integer({ min: 1, max: 3000 }), height: fc.integer({ min: 1, max: 3000 }) }),
        fc.integer({ min: 1, max: 16 }),
        fc.integer({ min: 1, max: 16 }),
        (size, columns, frames) => {
          const layout = { columns, frames: Array.from({ length: frames }, (_, i) => i) };
          const { width, height } = pictureSize(layout, size);
          const bands = bandsOf([layout], size);
          const at = bands.reduce((row, { first, end }) => (first === row ? end : NaN), 0);
          const largest = Math.max(...bands.map(({ first, end }) => (end - first) * width * 4));
          expect(largest).toBeLessThanOrEqual(Math.max(1024 * 1024, width * 4));
          expect(bands.filter((b) => b.last)).toEqual(bands.slice(-1));
          expect(at).toBe(height);
        },
      ),
    );
  });
});

describe('colour under clear pixels', () => {
  it('is that of the nearest covered one; what is covered, and every alpha, stays', () => {
    const picture = fc
      .record({ width: fc.integer({ min: 1, max: 14 }), height: fc.integer({ min: 1, max: 14 }) })
      .chain(({ width, height }) =>
        fc.record({
          width: fc.constant(width),
          height: fc.constant(height),
          covered: fc.array(fc.integer({ min: 0, max: width * height - 1 }), { maxLength: 8 }),
        }),
      );
    fc.assert(
      fc.property(picture, ({ width, height, covered }) => {
        const data = new Uint8Array(width * height * 4);
        // A covered pixel's colour tells which it is.
        for (const p of covered) data.set([p & 255, 100, 200, 7], p * 4);
        const before = data.slice();
        spreadColor(data, width, height);
        const distance = (a: number, b: number): number =>
          ((a % width) - (b % width)) ** 2 + (Math.floor(a / width) - Math.floor(b / width)) ** 2;
        for (let p = 0; p < width * height; p++) {
          const [red, ...rest] = data.subarray(p * 4, p * 4 + 4);
          const clear = before[p * 4 + 3] === 0;
          const least = Math.min(...covered.map((c) => distance(c, p)));
          expect(rest).toEqual(covered.length === 0 ? [0, 0, 0] : [100, 200, clear ? 0 : 7]);
          if (covered.length > 0) expect(distance(red!, p)).toBe(least);
        }
      }),
      { numRuns: 300 },
    );
  });

  it('is found by both bytes of an alpha of 16 bits', () => {
    const data = new Uint8Array(2 * 8);
    data.set([1, 2, 3, 4, 5, 6, 0, 1], 8);
    spreadColor(data, 2, 1, 16);
    expect([...data]).toEqual([1, 2, 3, 4, 5, 6, 0, 0, 1, 2, 3, 4, 5, 6, 0, 1]);
  });

  it('multiplied by its alpha is what covers there, in linear light', () => {
    const half = check(parse('surface unlit blend two-sided\nout color = (1, 0.5, 0)\nout opacity = 0.5\n'));
    const one = { width: 1, height: 1, output: 'color', samples: 1 } as const;
    const pixel = (premultiply: boolean): number[] => [
      ...Baker.of(half, { dials: new Map(), switches: new Map() }, { ...one, premultiply }, () => undefined)!.frame(0),
    ];
    expect(pixel(false)).toEqual([255, 188, 0, 128]);
    // 0.5 and 0.25 of linear light.
    expect(pixel(true)).toEqual([188, 137, 0, 128]);
  });
});

/** What is used here of the host's WebAssembly: core is written against no host. */
const host = (
  globalThis as unknown as {
    readonly WebAssembly: {
      readonly Memory: new (size: { initial: number }) => { readonly buffer: ArrayBuffer };
      readonly Module: new (bytes: Uint8Array) => object;
      readonly Instance: new (
        module: object,
        imports: object,
      ) => { readonly exports: { run: (bytes: number) => void } };
    };
  }
).WebAssembly;

describe('bytes of pixels', () => {
  it('of sRGB are rounded exactly, also of floats right at where a byte changes', () => {
    const bits = new Uint32Array(1);
    const floats = new Float32Array(bits.buffer);
    const near = (value: number): number[] => {
      floats[0] = value;
      const [at] = bits;
      return [-2, -1, 0, 1, 2].map((by) => {
        bits[0] = at! + by;
        return floats[0]!;
      });
    };
    const changes = Array.from({ length: 255 }, (_, byte) => fromSrgb((byte + 0.5) / 255)).flatMap(near);
    const some = Array.from({ length: 4096 }, (_, i) => Math.fround((Math.imul(i + 1, 2654435761) >>> 0) / 2 ** 32));
    const values = [...changes, ...some, 0, 1, -1, 2, 1e-30, NaN, Infinity, -Infinity];
    const count = Math.ceil(values.length / 4) * 4;
    const [table, plane] = [0, Math.ceil(SRGB_TABLE_BYTES / 16) * 16];
    const out = plane + count * 4;
    const memory = new host.Memory({ initial: Math.ceil((out + count * 4) / 65536) });
    new Uint8Array(memory.buffer).set(srgbTable(), table);
    new Float32Array(memory.buffer, plane, count).set(values);
    const half = { kind: 'constant', byte: 77 } as const;
    const srgb = { kind: 'srgb', plane, times: undefined } as const;
    const light = { kind: 'light', plane, times: undefined } as const;
    const channels = [srgb, half, light, { kind: 'signed', plane, sign: -1 }] as const;
    const module = new host.Module(encodeByteStore({ channels, clear: undefined, out, table }));
    const { run } = new host.Instance(module, { host: { memory } }).exports;
    run(count * 4);
    const bytes = new Uint8Array(memory.buffer, out, count * 4);
    const held = (v: number): number => (Number.isNaN(v) ? 0 : Math.min(Math.max(v, 0), 1));
    const wrong = values.flatMap((v, i) => {
      const [r, g, b, a] = bytes.subarray(i * 4, i * 4 + 4);
      const signed = Number.isFinite(v) ? Math.round(held(0.5 - v / 2) * 255) : a!;
      const right =
        r === srgbByte(held(v)) && g === 77 && Math.abs(b! - held(v) * 255) <= 0.501 && Math.abs(a! - signed) <= 1;
      return right ? [] : [[v, r, g, b, a]];
    });
    expect(wrong).toEqual([]);
  });

  it('of words are apart as bytes are, each by itself', () => {
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 48, maxLength: 48 }), fc.constantFrom(undefined, 4, 8), (data, left) => {
        const rows = filtered(data, 16, left);
        for (let y = 0; y < 3; y++)
          for (let x = 0; x < 16; x++) {
            const back = y > 0 ? data[(y - 1) * 16 + x]! : left !== undefined && x >= left ? data[x - left]! : 0;
            expect(rows[y * 17 + 1 + x]).toBe((data[y * 16 + x]! - back) & 255);
          }
      }),
    );
  });
});
