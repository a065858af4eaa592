import { describe, expect, it } from '@jest/globals';
import {
  applyEdits,
  examined,
  insertOperation,
  insertTexture,
  likelyEncoding,
  measureSeams,
  operationNamed,
  replaceTexture,
  samples,
  tileByBlending,
  tileByPatching,
  type Encoding,
  type PixelImage,
} from '../src/index.ts';
import { checked } from './support.ts';

/** An image whose texels are what `texel` gives for u and v, 0..1. */
function picture(texel: (u: number, v: number) => readonly number[], size = 64): PixelImage {
  const data = new Uint8Array(size * size * 4);
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++)
      data.set(
        [...texel(x / size, y / size), 1, 1, 1].slice(0, 4).map((c) => Math.round(c * 255)),
        (y * size + x) * 4,
      );
  return { width: size, height: size, data };
}
const wave = (x: number): number => 0.5 + 0.5 * Math.sin(2 * Math.PI * x);
const TILING = picture((u, v) => [wave(u), wave(v), wave(u + v)]);
const ACROSS = picture((u, v) => [u, wave(v), 0.5]);
const DOWN = picture((u, v) => [0.3, v, wave(u)]);
const GREY = picture((u) => [wave(u), wave(u), wave(u)]);
const NORMAL = picture((u, v) => {
  const [x, y] = [0.3 * Math.sin(6.283 * u), 0.3 * Math.sin(6.283 * v)];
  return [x, y, Math.sqrt(1 - x * x - y * y)].map((c) => c / 2 + 0.5);
});

const write = (text: string, source: string, encoding: Encoding, index: number): string => {
  const program = checked(text);
  return applyEdits(text, insertTexture(program, { source, encoding }, index).edits);
};
const errors = (text: string): string[] =>
  checked(text)
    .diagnostics.filter((d) => d.severity === 'error')
    .map((d) => d.message);

const BLANK = 'material "Untitled"\nloop 4s at 30fps\nsurface unlit opaque one-sided\n';
const FOUND = {
  seams: 'image-seam',
  kinds: ['normal-as-color', 'not-a-normal-map', 'color-as-data'],
} as const;
const findings = (text: string, image: PixelImage) => examined(checked(text), { images: () => image }).findings;

describe('a texture that is put into a material', () => {
  it('makes a blank one a picture in one edit, and a normal map lights it', () => {
    const first = write(BLANK, 'leaf vein.png', 'color', -1);
    expect(first).toBe(
      'material "Untitled"\nloop 4s at 30fps\nsurface unlit opaque one-sided\n' +
        'image leaf_vein = "leaf vein.png" repeat linear color\n\n' +
        'flow = uv |> tile(1)\nfilm = flow |> sample(leaf_vein)\n\nout color = film\n',
    );
    const program = checked(first);
    const both = write(first, 'folds.png', 'normal', program.steps.length - 1);
    expect(errors(both)).toEqual([]);
    expect(both).toContain('surface lit opaque');
    expect(both).toContain('tilt = flow |> sample(folds)');
    expect(both).toContain('out normal = tilt.xyz');
  });

  it.each(['', 'out color = 0.5', BLANK, 'a = uv\nb = 0.5\noff c = uv |> tile(2)\nout color = b', '// nothing'])(
    'leaves no error, wherever it goes, whatever it is called: %j',
    (text) => {
      for (const source of ['a.png', '7 "odd" name.tga', 'sample.png', '.png', 'uv'])
        for (const encoding of ['color', 'data', 'normal'] as const)
          for (let index = -1; index <= checked(text).steps.length; index++) {
            const made = write(text, source, encoding, index);
            expect([made, errors(made)]).toEqual([made, []]);
            const program = checked(made);
            const { step } = insertTexture(checked(text), { source, encoding }, index);
            expect(samples(program, step)).toBe(true);
          }
    },
  );

  it('takes the place of another on a step that samples, there alone', () => {
    const text = 'image a = "a.png" mirror nearest\nx = uv |> sample(a)\ny = uv |> sample(a)\nout color = x + y\n';
    const b = { source: 'b.png', encoding: 'data' } as const;
    const one = applyEdits(text, replaceTexture(checked(text), b, 0)!);
    expect(one).toContain('image b = "b.png" repeat linear data');
    expect(one).toContain('x = uv |> sample(b)\ny = uv |> sample(a)');
    const other = applyEdits(one, replaceTexture(checked(one), { source: 'c.png', encoding: 'color' }, 1)!);
    expect(other).toContain('image c = "c.png" mirror nearest color');
    expect(other).not.toContain('a.png');
    expect(errors(other)).toEqual([]);
    expect(replaceTexture(checked(text), b, 2)).toBeUndefined();
  });

  it('moves together with what reads the same coordinates', () => {
    const both = write(write(BLANK, 'a.png', 'color', -1), 'n.png', 'normal', 1);
    const program = checked(both);
    const film = program.steps.findIndex((s) => s.name === 'film');
    const pan = operationNamed('pan')!;
    const panned = applyEdits(both, insertOperation(program, pan, { index: film, as: 'stage' }).edits);
    expect(panned).toMatch(/flow = uv \|> tile\(1\) \|> pan\(/);
    const inline = 'image a = "a.png"\nfilm = uv |> sample(a)\nout color = film\n';
    expect(applyEdits(inline, insertOperation(checked(inline), pan, { index: 0, as: 'stage' }).edits)).toMatch(
      /film = uv \|> pan\(.*\) \|> sample\(a\)/,
    );
  });

  it('is read as what it is', () => {
    expect([TILING, GREY, NORMAL].map((image) => likelyEncoding(image, 'a.png'))).toEqual(['color', 'data', 'normal']);
    expect(likelyEncoding(TILING, 'wall_Roughness.png')).toBe('data');
    // As long as a unit vector, and grey.
    expect(
      likelyEncoding(
        picture(() => [0.787, 0.787, 0.787]),
        'a.png',
      ),
    ).toBe('data');
  });
});

describe('findings on textures', () => {
  const reads = (coordinates: string, words = 'repeat'): string =>
    `image a = "a.png" ${words}\nflow = ${coordinates}\nfilm = flow |> sample(a)\nout color = film\n`;
  const seam = (text: string, image: PixelImage) => findings(text, image).filter((f) => f.code === FOUND.seams);

  it.each([
    ['uv |> pan(1 lap, heading: 0deg)', ACROSS, 'u'],
    ['uv |> pan(1 lap, heading: 90deg)', DOWN, 'v'],
    ['uv |> tile(2)', ACROSS, 'u'],
    ['uv |> spin(1 lap)', DOWN, 'v'],
    ['(uv.y, uv.x) |> pan(1 lap, heading: 90deg)', DOWN, 'v'],
  ])('a seam that %s brings into the picture is found along its axis', (coordinates, image, axes) => {
    const [found] = seam(reads(coordinates), image);
    expect(found?.tileable).toEqual({ source: 'a.png', image: 'a', axes });
    expect(found?.message).toContain('flow');
    expect(found?.fixes.map((f) => f.title)).toEqual(['Mirror']);
    expect(seam(applyEdits(reads(coordinates), found!.fixes[0]!.edits), image)).toEqual([]);
    const tiled = axes === 'both' ? {} : { axes: axes as 'u' | 'v' };
    expect(seam(reads(coordinates), tileByBlending(image, { band: 0.25, keepContrast: false, ...tiled }))).toEqual([]);
  });

  it.each([
    ['an edge that no coordinate passes', reads('uv'), ACROSS],
    ['an edge that stands still beside the motion', reads('uv |> pan(1 lap, heading: 90deg)'), ACROSS],
    ['an image that tiles', reads('uv |> pan(1 lap, heading: 0deg)'), TILING],
    ['one that ends at its edge', reads('uv |> tile(2)', 'clamp'), ACROSS],
    ['one that nothing shows', 'image a = "a.png"\nx = uv |> tile(2) |> sample(a)\nout color = 0.5', ACROSS],
  ])('%s is none', (_, text, image) => {
    expect(seam(text, image)).toEqual([]);
  });

  it('one axis alone is made to tile, the other is left as it is', () => {
    for (const make of [
      (i: PixelImage) => tileByPatching(i, { band: 0.12, axes: 'u' }),
      (i: PixelImage) => tileByBlending(i, { band: 0.25, keepContrast: false, axes: 'u' }),
    ]) {
      const made = measureSeams(make(ACROSS));
      expect(made.u.ratio).toBeLessThan(measureSeams(ACROSS).u.ratio / 8);
      expect(measureSeams(make(DOWN)).v.ratio).toBeGreaterThan(10);
    }
  });

  it('a picture that is no normal map is told, and the reverse', () => {
    const codes = (words: string, image: PixelImage): string[] =>
      findings(reads('uv', words), image)
        .map((f) => f.code)
        .filter((code) => (FOUND.kinds as readonly string[]).includes(code));
    expect(codes('normal', GREY)).toEqual(['not-a-normal-map']);
    expect(codes('color', NORMAL)).toEqual(['normal-as-color']);
    expect(codes('normal', NORMAL)).toEqual([]);
    expect(findings(reads('uv', 'normal'), GREY)[0]?.fixes[0]?.title).toBe('Read it as data');
  });
});

it('tells dials without effect, and the switch that brings one back', () => {
  const text = `dial a = 1 in 0..2
dial b = 1 in 0..2
dial c = 1 in 0..2
dial d = 1 in 0..2
switch s = off
switch t = on
out color = mix(b, a, s) * mix(c, 1, t)
`;
  const { idle } = examined(checked(text));
  expect(idle).toEqual([
    { name: 'a', back: { name: 's', on: true } },
    { name: 'c', back: { name: 't', on: false } },
    { name: 'd', back: undefined },
  ]);
});
