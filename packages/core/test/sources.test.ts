import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import {
  addRamp,
  applyEdits,
  bakeStep,
  dissolveCurves,
  dissolveNodes,
  dissolvesOf,
  dissolveShares,
  fromSrgb,
  invertMask,
  levelMask,
  levelOf,
  moveReads,
  parse,
  rampPixels,
  renameName,
  setRamp,
  spreadEvenly,
  stepSignature,
  stopsOfPixels,
  reverseStops,
  writtenRamp,
  type MovedReads,
} from '../src/index.ts';
import { lower } from '../src/lower/lower.ts';
import { checked, near, valueAt } from './support.ts';

const stops = [
  { at: 0, hex: '#000000' },
  { at: 0.25, hex: '#ff8000cc' },
  { at: 1, hex: '#ffffff' },
];

describe('ramps', () => {
  const text =
    'ramp a = 0% #000, 50% #fff  // plain\nramp fire  = 0% #111, 100% #eee smooth // hot\nout color = uv.x |> ramp(fire)\n';

  it('are written over their own line and nothing else', () => {
    const edited = applyEdits(text, setRamp(parse(text), 'fire', [stops[2]!, stops[0]!, stops[1]!], 'stepped'));
    expect(edited).toBe(text.replace('0% #111, 100% #eee smooth', '0% #000000, 25% #ff8000cc, 100% #ffffff stepped'));
    expect(writtenRamp(parse(edited), 'fire')).toEqual({ stops, easing: 'stepped' });
    expect(setRamp(parse(edited), 'fire', stops, 'stepped')).toEqual([]);
    expect(setRamp(parse(text), 'none', stops, 'linear')).toEqual([]);
    expect(checked(applyEdits(text, addRamp(parse(text), 'ice', stops, 'linear'))).ramps.map((r) => r.name)).toEqual([
      'a',
      'fire',
      'ice',
    ]);
    expect(checked(applyEdits('', addRamp(parse(''), 'ice', stops, 'smooth'))).ramps[0]?.easing).toBe('smooth');
  });

  it('spread and turn round', () => {
    expect(spreadEvenly(stops).map((s) => s.at)).toEqual([0, 0.5, 1]);
    expect(reverseStops(stops)).toEqual([
      { at: 0, hex: '#ffffff' },
      { at: 0.75, hex: '#ff8000cc' },
      { at: 1, hex: '#000000' },
    ]);
    expect(reverseStops(reverseStops(stops))).toEqual(stops);
  });

  it('become pixels and come back from them', () => {
    for (const easing of ['linear', 'smooth', 'stepped'] as const) {
      const pixels = rampPixels(stops, easing, 256);
      expect([...pixels.data.subarray(255 * 4)]).toEqual(
        easing === 'stepped' ? [255, 128, 0, 204] : [255, 255, 255, 255].map((v) => near(v, -1)),
      );
      const read = rampPixels(stopsOfPixels(rampPixels(stops, 'linear', 256)), 'linear', 256);
      expect(
        Math.max(...read.data.map((v, i) => Math.abs(v - rampPixels(stops, 'linear', 256).data[i]!))),
      ).toBeLessThan(4);
    }
    expect(
      stopsOfPixels({ width: 3, height: 1, data: Uint8Array.from([0, 0, 0, 255, 0, 0, 0, 255, 0, 0, 0, 255]) }),
    ).toHaveLength(2);
    expect(stopsOfPixels({ width: 1, height: 1, data: Uint8Array.from([9, 9, 9, 255]) })).toHaveLength(2);
  });
});

describe('baking a step', () => {
  const text =
    'dial bright = 0.5 in 0..1\ndial other = 1 in 0..2\nn = uv.x * bright // a note\nc = #ff8040\nm = n * other\nout color = c\nvariant "Full" { bright = 1 }\n';
  const recipe = { width: 4, height: 2, time: 0, encoding: 'data', bits: 16 } as const;

  it('stores what the step is', () => {
    const baked = bakeStep(checked(text), { ...recipe, step: 'n' }, () => undefined);
    expect([...baked!.data.subarray(0, 16)].filter((_, i) => i % 4 === 0)).toEqual(
      [0.125, 0.375, 0.625, 0.875].map((u) => Math.round(u * 0.5 * 65535)),
    );
    expect([
      ...bakeStep(checked(text), { ...recipe, step: 'n', variant: 'Full' }, () => undefined)!.data.subarray(0, 4),
    ]).toEqual([8192, 8192, 8192, 65535]);
    expect([
      ...bakeStep(
        checked(text),
        { ...recipe, step: 'out.color', encoding: 'color', bits: 8 },
        () => undefined,
      )!.data.subarray(0, 4),
    ]).toEqual([255, 128, 64, 255]);
    expect(bakeStep(checked(text), { ...recipe, step: 'gone' }, () => undefined)).toBeUndefined();
  });

  it('is stale when what it depends on changes, and only then', () => {
    const of = (changed: string): string | undefined =>
      stepSignature(checked(changed), { ...recipe, step: 'n' }, () => '');
    expect(of(text.replace('// a note', '// another'))).toBe(of(text));
    expect(of(text.replace('other = 1', 'other = 2'))).toBe(of(text));
    expect(of(text.replace('bright = 0.5', 'bright = 0.6'))).not.toBe(of(text));
    expect(of(text.replace('uv.x', 'uv.y'))).not.toBe(of(text));
    const image = `image i = "moss"\n${text.replace('uv.x', '(uv |> sample(i)).r')}`;
    const read = (hash: string): string | undefined =>
      stepSignature(checked(image), { ...recipe, step: 'n' }, () => hash);
    expect(read('a')).not.toBe(read('b'));
  });

  it('is not stale when anything is only renamed, or stands beside it', () => {
    const long = [
      'image moss = "moss"',
      'dial bright = 0.5 in 0..1',
      'dial fall: laps = 2 in 0..4',
      'switch wet = on',
      'op twice(x: number, by: number = 2) = x * by',
      'flow = uv |> pan(fall, heading: 30deg)',
      'film = flow |> sample(moss)',
      'clouds = flow |> fbm(cells: 3, evolve: fall)',
      'lit = twice(film.r * bright + clouds) * wet',
      'out color = lit',
    ].join('\n');
    const signature = (changed: string, step: string): string | undefined =>
      stepSignature(checked(changed), { ...recipe, time: 0.7, step }, (source) => source);
    const before = signature(long, 'lit');
    for (const name of ['moss', 'bright', 'fall', 'wet', 'twice', 'flow', 'film', 'clouds', 'lit']) {
      const renamed =
        name === 'twice'
          ? long.replaceAll(name, 'other_name')
          : applyEdits(long, renameName(checked(long).tree, name, 'other_name'));
      expect(renamed).not.toBe(long);
      expect(checked(renamed).diagnostics).toEqual(checked(long).diagnostics);
      expect([name, signature(renamed, name === 'lit' ? 'other_name' : 'lit')]).toEqual([name, before]);
    }
    expect(signature(long.replace('flow = ', 'first = uv |> turn(30deg)\nflow = '), 'lit')).toBe(before);
    for (const [from, to] of [
      ['cells: 3', 'cells: 4'],
      ['30deg', '31deg'],
      ['by: number = 2', 'by: number = 3'],
      ['wet = on', 'wet = off'],
      ['film.r', 'film.g'],
    ] as const)
      expect([to, signature(long.replace(from, to), 'lit')]).not.toEqual([to, before]);
  });
});

describe('moving reads to a packed image', () => {
  const text = [
    'image spots = "spots.png" repeat linear data',
    'image veil = "veil.png" data',
    'image photo = "photo.png"',
    'flow = uv |> tile(2)',
    's = flow |> sample(spots)',
    'both = s.r * (flow |> sample(veil)).g + s.gr.x',
    'out color = flow |> sample(photo)',
    'out opacity = both * (flow |> sample(photo)).a',
    '',
  ].join('\n');
  const moves = [
    { source: 'spots.png', from: 0, to: 2 },
    { source: 'spots.png', from: 1, to: 0 },
    { source: 'veil.png', from: 1, to: 1 },
  ];
  const reason = (moved: MovedReads): string => ('reason' in moved ? moved.reason : '');

  it('renames channels, merges images that become alike, and keeps every value', () => {
    const moved = moveReads(checked(text), 'packed.png', moves);
    if ('reason' in moved) throw new Error(moved.reason);
    const after = applyEdits(text, moved.edits);
    expect(checked(after).ok).toBe(true);
    expect(after).toContain('image spots = "packed.png" repeat linear data\nimage photo');
    expect(after).toContain('both = s.b * (flow |> sample(spots)).g + s.rb.x');
    expect(lower(checked(after)).images).toHaveLength(2);
  });

  it('says why it does not', () => {
    expect(reason(moveReads(checked(text), 'p', moves.slice(0, 1)))).toMatch(/in channel g, which is not packed/);
    expect(reason(moveReads(checked(text), 'p', [{ source: 'photo.png', from: 3, to: 0 }]))).toMatch(
      /line 7 the whole of 'photo' is used/,
    );
    expect(reason(moveReads(checked(text), 'p', [{ source: 'none', from: 0, to: 0 }]))).toMatch(/uses none/);
    const colour = 'image photo = "photo.png"\nout opacity = (uv |> sample(photo)).r\n';
    expect(reason(moveReads(checked(colour), 'p', [{ source: 'photo.png', from: 0, to: 0 }]))).toMatch(/read as color/);
    const alpha = moveReads(checked(colour.replace('.r', '.a')), 'p', [{ source: 'photo.png', from: 3, to: 1 }]);
    expect('edits' in alpha && applyEdits(colour.replace('.r', '.a'), alpha.edits)).toBe(
      'image photo = "p" data\nout opacity = (uv |> sample(photo)).g\n',
    );
  });
});

describe('the dissolve explained', () => {
  const text = [
    'ramp ember = 0% #ff000000, 40% #ff4000, 100% #ffff00 smooth',
    'mask = uv |> fbm(cells: 3)',
    'ward = (0.2, 0.4, 0.6) |> dissolve(mask, 0.5, edge: 0.3, ramp: ember, core: 0.4)',
    'veil = mask |> reveal(0.25, 0.2)',
    'sum = ward |> dissolve(mask * 0.5 + 0.1, 0.5, ramp: ember)',
    'out color = sum',
  ].join('\n');

  it('finds each and its settings', () => {
    const program = checked(text);
    const found = dissolvesOf(program);
    expect(found.map((d) => [d.name, d.step.name, d.ramp?.name])).toEqual([
      ['dissolve', 'ward', 'ember'],
      ['reveal', 'veil', undefined],
      ['dissolve', 'sum', 'ember'],
    ]);
    const { edge, core, mask } = dissolveNodes(lower(program), found[2]!);
    expect([edge?.payload, core?.payload, mask?.frequency]).toEqual([[0.2], [0.5], 'pixel']);
  });

  it('draws the curves of the contract', () => {
    const [ward] = dissolvesOf(checked(text));
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0.05, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (progress, edge, core) => {
          const curves = dissolveCurves(ward!.ramp, { progress, edge, core: Math.min(core, 0.95) }, 33);
          curves.mask.forEach((mask, i) => {
            const age = Math.min(Math.max((progress * (1 + edge) - mask) / edge, 0), 1);
            expect(curves.age[i]).toBeCloseTo(age, 4);
            const share = Math.min(Math.max((age - Math.min(core, 0.95)) / (1 - Math.min(core, 0.95)), 0), 1);
            expect(curves.share[i]).toBeCloseTo(share, 3);
          });
        },
      ),
      { numRuns: 25 },
    );
    const { color } = dissolveCurves(ward!.ramp, { progress: 1, edge: 0.2, core: 0 });
    expect(color[0]).toEqual([1, 1, 0, 1].map((v) => near(v, 5)));
    expect(dissolveCurves(undefined, { progress: 0.5, edge: 0.2, core: 0 }).share[0]).toBe(1);
    expect(fromSrgb(1)).toBe(1);
  });

  it('counts the shares of the surface', () => {
    const even = Array<number>(100).fill(1);
    expect(dissolveShares(even, { progress: 0, edge: 0.2 })).toEqual({ hidden: 1, burning: 0, shown: 0 });
    expect(dissolveShares(even, { progress: 1, edge: 0.2 }).shown).toBe(1);
    const half = dissolveShares(even, { progress: 0.5, edge: 0.2 });
    expect([half.hidden, half.burning, half.shown]).toEqual([0.4, 0.2, 0.4].map((v) => near(v, 9)));
  });

  it('turns and levels a mask in the text, whatever it is', () => {
    for (const which of [0, 1, 2]) {
      const at = (of: string, uv: readonly number[]): number =>
        valueAt(
          `${of}\nprobe = ${of.slice(dissolvesOf(checked(of))[which]!.mask.from, dissolvesOf(checked(of))[which]!.mask.to)}`,
          'probe',
          uv,
          0,
        )[0]!;
      const turn = (of: string): string => applyEdits(of, invertMask(of, dissolvesOf(checked(of))[which]!.mask));
      const turned = turn(text);
      expect(checked(turned).ok).toBe(true);
      expect(at(turned, [0.3, 0.6])).toBeCloseTo(1 - at(text, [0.3, 0.6]), 5);
      if (which < 2) expect(turn(turned)).toBe(text);
      const level = (of: string, low: number, high: number): string =>
        applyEdits(of, levelMask(of, dissolvesOf(checked(of))[which]!.mask, low, high));
      const levelled = level(text, 0.2, 0.7);
      expect(at(levelled, [0.3, 0.6])).toBeCloseTo(Math.min(Math.max((at(text, [0.3, 0.6]) - 0.2) / 0.5, 0), 1), 5);
      const again = level(levelled, 0.1, 0.9);
      expect(again.length).toBeLessThanOrEqual(levelled.length);
      expect(levelOf(again, dissolvesOf(checked(again))[which]!.mask)).toMatchObject({ low: 0.1, high: 0.9 });
    }
  });
});
