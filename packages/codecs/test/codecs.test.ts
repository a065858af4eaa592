import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from '@jest/globals';
import { encodeTga } from '@lunapaint/tga-codec';
import { PNG } from 'pngjs';
import { decodeGif, encodePixels, ImageRefused, PIXEL_LIMIT, readHeader, sheetColumns } from '../src/index.ts';
import { nodeDecoder } from '../src/node.ts';

const folder = mkdtempSync(join(tmpdir(), 'estela-codecs-'));
const decoder = nodeDecoder();
/** A file written by ImageMagick: another program than any of ours, and the judge of what is in it. */
function made(name: string, ...more: readonly string[]): { bytes: Uint8Array; pixels: Uint8Array; wide: Uint16Array } {
  const path = join(folder, name);
  execFileSync('convert-im6.q16', [
    '-size',
    '37x21',
    '-seed',
    '7',
    'plasma:red-blue',
    '-alpha',
    'off',
    ...(more.includes('-depth') ? [] : ['-depth', '8']),
    ...more,
    path,
  ]);
  const read = (depth: string): Buffer =>
    execFileSync('convert-im6.q16', [`${path}[0]`, '-depth', depth, 'rgba:-'], { maxBuffer: 1 << 26 });
  const wide = read('16');
  return {
    bytes: readFileSync(path),
    pixels: read('8'),
    wide: new Uint16Array(wide.buffer.slice(wide.byteOffset, wide.byteOffset + wide.length)),
  };
}
const translucent = ['-alpha', 'set', '-channel', 'A', '-fx', 'i/w', '+channel'];
const refusal = async (bytes: Uint8Array): Promise<ImageRefused> => {
  const error: unknown = await decoder.decode(bytes).catch((e: unknown) => e);
  if (!(error instanceof ImageRefused)) throw new Error('it was taken');
  return error;
};
const farthest = (a: ArrayLike<number>, b: ArrayLike<number>): number => {
  expect(a.length).toBe(b.length);
  let most = 0;
  for (let i = 0; i < a.length; i++) most = Math.max(most, Math.abs(a[i]! - b[i]!));
  return most;
};

describe('image files of another program', () => {
  // Lossy kinds may be rounded differently from decoder to decoder; the rest has one meaning.
  it.each([
    ['solid.png', [], 3, 0],
    ['alpha.png', translucent, 4, 0],
    ['interlaced.png', ['-interlace', 'PNG'], 3, 0],
    ['palette.png', ['-colors', '7', '-define', 'png:color-type=3'], 3, 0],
    ['grey.png', ['-colorspace', 'gray', '-define', 'png:color-type=0'], 1, 0],
    [
      'bits.png',
      ['-colorspace', 'gray', '-threshold', '50%', '-define', 'png:bit-depth=1', '-define', 'png:color-type=0'],
      1,
      0,
    ],
    ['photo.jpg', ['-quality', '90', '-sampling-factor', '1x1'], 3, 2],
    ['progressive.jpg', ['-interlace', 'JPEG', '-quality', '90', '-sampling-factor', '1x1'], 3, 2],
    ['lossless.webp', ['-define', 'webp:lossless=true', ...translucent], 4, 0],
    ['lossy.webp', ['-quality', '90'], 3, 2],
    ['plain.tga', ['-compress', 'none'], 3, 0],
    ['runs.tga', ['-compress', 'RLE'], 3, 0],
    ['alpha.tga', ['-compress', 'RLE', ...translucent], 4, 0],
    ['grey.tga', ['-compress', 'none', '-colorspace', 'gray'], 1, 0],
    ['one.gif', ['-colors', '64'], 3, 0],
  ] as const)('%s comes in as it is', async (name, options, channels, off) => {
    const { bytes, pixels } = made(name, ...options);
    const image = await decoder.decode(bytes);
    expect(image).toMatchObject({ width: 37, height: 21, channels, frames: 1, header: { bits: 8 } });
    expect(farthest(image.data, pixels)).toBeLessThanOrEqual(off);
  });

  it('keeps 16 bits', async () => {
    const { bytes, wide } = made('deep.png', '-depth', '16', '-define', 'png:bit-depth=16');
    const image = await decoder.decode(bytes);
    expect(image.header.bits).toBe(16);
    expect(image.data).toBeInstanceOf(Uint16Array);
    expect(farthest(image.data, wide)).toBe(0);
    expect(new Set(image.data).size).toBeGreaterThan(256);
  });

  it.each([15, 16] as const)('reads a TGA of %s bits', async (bitDepth) => {
    const data = Uint8Array.from({ length: 37 * 21 * 4 }, (_, i) => (i % 4 === 3 ? 255 : (i * 8) & 248));
    const options = { bitDepth, imageType: 2, screenOrigin: 2 } as object;
    const { data: bytes } = await encodeTga({ data, width: 37, height: 21 }, options);
    const image = await decoder.decode(bytes);
    expect(farthest(image.data, data)).toBeLessThanOrEqual(7);
  });

  it('gives the frames of a GIF as whole pictures', () => {
    const path = join(folder, 'moving.gif');
    const frames = ['red', 'lime', 'blue', 'white'].flatMap((c, i) => [
      '(',
      '-size',
      '4x4',
      `xc:${c}`,
      '-repage',
      `16x16+${i * 4}+0`,
      ')',
    ]);
    execFileSync('convert-im6.q16', ['-delay', '10', '-dispose', 'none', ...frames, path]);
    const { frames: pictures, count } = decodeGif(readFileSync(path));
    expect(count).toBe(4);
    expect([...pictures[3]!.data.subarray(0, 4)]).toEqual([255, 0, 0, 255]);
    expect([...pictures[3]!.data.subarray(12 * 4, 12 * 4 + 4)]).toEqual([255, 255, 255, 255]);
    expect(pictures[0]!.data[4 * 4 + 3]).toBe(0);
    expect([1, 4, 5, 6, 7, 12].map(sheetColumns)).toEqual([1, 2, 5, 3, 7, 4]);
  });
});

describe('what is written', () => {
  it.each([8, 16])('is read by another decoder, %s bits', (bits) => {
    const most = 2 ** bits - 1;
    const values = Array.from({ length: 5 * 3 * 4 }, (_, i) => (i * 7919) % (most + 1));
    const data = bits === 16 ? Uint16Array.from(values) : Uint8Array.from(values);
    const read = PNG.sync.read(Buffer.from(encodePixels({ width: 5, height: 3, data })), { skipRescale: true });
    expect([...read.data]).toEqual(values);
  });
});

describe('what is refused', () => {
  it('says why', async () => {
    const { bytes } = made('whole.png');
    const header = Uint8Array.from(bytes);
    new DataView(header.buffer).setUint32(16, 30000);
    new DataView(header.buffer).setUint32(20, 30000);
    expect(await refusal(header)).toMatchObject({
      code: 'too-many-pixels',
      message: 'is 30000 x 30000 pixels, 900 million; the limit is 64 million.',
    });
    expect(await refusal(new TextEncoder().encode('material "Not an image at all"'))).toMatchObject({
      code: 'wrong-type',
    });
    expect(() => readHeader(new Uint8Array(64 * 1024 * 1024 + 1))).toThrow('the limit is 64 MB');
    expect(PIXEL_LIMIT).toBe(64_000_000);
  });

  it.each(['cut.png', 'cut.jpg', 'cut.webp', 'cut.tga', 'cut.gif'])(
    'takes no half of %s, and goes on after it',
    async (name) => {
      const { bytes } = made(name);
      for (const share of [0.02, 0.5, 0.8])
        expect((await refusal(bytes.subarray(0, Math.floor(bytes.length * share)))).code).toMatch(/broken|wrong-type/);
      expect((await decoder.decode(bytes)).width).toBe(37);
    },
  );

  it('never throws anything else, whatever the bytes', async () => {
    const { bytes } = made('spoilt.png');
    let seed = 1;
    const next = (): number => (seed = (seed * 48271) % 2147483647);
    for (let run = 0; run < 60; run++) {
      const spoilt = Uint8Array.from(bytes);
      for (let i = 0; i < 5; i++) spoilt[8 + (next() % (spoilt.length - 8))] = next() & 255;
      writeFileSync(join(folder, 'last.png'), spoilt);
      await decoder.decode(spoilt).catch((e: unknown) => {
        expect(e).toBeInstanceOf(ImageRefused);
      });
    }
  });
});

describe('a JPEG', () => {
  const segment = (marker: number, ...data: readonly number[]): number[] => [
    0xff,
    marker,
    (data.length + 2) >> 8,
    (data.length + 2) & 255,
    ...data,
  ];
  const frame = (marker: number, width: number, height: number): number[] =>
    segment(marker, 8, height >> 8, height & 255, width >> 8, width & 255, 1, 1, 0x11, 0);
  const size = (...bytes: readonly number[]): unknown => {
    try {
      const { width, height } = readHeader(Uint8Array.from([0xff, 0xd8, ...bytes]));
      return [width, height];
    } catch (error) {
      return error instanceof ImageRefused ? error.message : error;
    }
  };

  it('says its size in the first frame header, of whatever process, behind whatever segments', () => {
    for (const marker of [0xc0, 0xc1, 0xc2, 0xc3, 0xc5, 0xcf])
      expect(size(...segment(0xe0, 1, 2, 3), 0xff, ...frame(marker, 300, 70), 0, 0)).toEqual([300, 70]);
    // Tables are no frames, and what stands in a segment is none either.
    expect(
      size(...segment(0xc4, 0), ...segment(0xfe, ...frame(0xc0, 9, 9)), 0xff, 0x01, ...frame(0xc0, 5, 6), 0, 0),
    ).toEqual([5, 6]);
    for (const bytes of [
      [0xff],
      segment(0xe0),
      [0xff, 0xe0, 0, 1, 0, 0, 0, 0, 0, 0, 0, 0],
      [0xff, 0xd9, ...frame(0xc0, 5, 6)],
      [...segment(0xe0), 1, 2, 3, 4, 5, 6, 7, 8, 9, 10],
    ])
      expect(size(...bytes)).toContain('its header cannot be read');
  });

  it('of nothing but empty segments is walked through once, without copying what is left of it', () => {
    let copies = 0;
    class Counted extends Uint8Array {
      override slice(start?: number, end?: number): Uint8Array<ArrayBuffer> {
        copies++;
        return super.slice(start, end);
      }
      override subarray(start?: number, end?: number): Uint8Array<ArrayBuffer> {
        copies++;
        return super.subarray(start, end);
      }
    }
    const bytes = new Counted(40_002).fill(0);
    bytes.set([0xff, 0xd8]);
    for (let i = 2; i + 4 <= bytes.length; i += 4) bytes.set([0xff, 0xe0, 0, 2], i);
    expect(() => readHeader(bytes)).toThrow('its header cannot be read');
    expect(copies).toBeLessThan(10);
  });
});
