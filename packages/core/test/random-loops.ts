import fc from 'fast-check';

/** Moves, noises and shapes that close, nearly close, or do not. */
const rate = fc.oneof(
  fc.integer({ min: -3, max: 3 }).map((n) => `${String(n)} laps`),
  fc.constantFrom('0.25/s', '0.5/s', '0.3/s', '0.5 laps', 'go', 'go * 2', 'free', 'go * k'),
);
const stage = fc.oneof(
  rate.map((r) => `pan(${r}, heading: 0deg)`),
  fc.tuple(rate, fc.constantFrom('30deg', '90deg', '180deg', 'lean')).map(([r, h]) => `pan(${r}, heading: ${h})`),
  fc.tuple(rate, rate).map(([r, u]) => `pan(right: ${r}, up: ${u})`),
  rate.map((r) => `spin(${r})`),
  fc.constantFrom(
    'tile(2, 3)',
    'tile(1.5, 2)',
    'turn(90deg)',
    'turn(20deg)',
    'flip(u)',
    'scale(0.5)',
    'offset(0.2, k)',
    'offset(wave(1 lap), 0)',
    'polar()',
  ),
  rate.map((r) => `distort(uv |> value(cells: 3, evolve: ${r}), amount: 0.1)`),
);
const end = fc.oneof(
  rate.map((r) => `fbm(cells: 3, octaves: 2, evolve: ${r})`),
  fc.constantFrom(
    'gradient(cells: 4)',
    'cellular(cells: 3)',
    'simplex(cells: 4)',
    'checker(2)',
    'stripes(3)',
    'disc(0.3)',
    'white(cells: 5)',
    'linear_gradient(90deg)',
  ),
  rate.map((r) => `specks(cells: 4, rate: ${r})`),
);
const after = fc.constantFrom(
  '',
  ' |> hold(10 frames)',
  ' |> hold(7 frames)',
  ' |> weave(1s)',
  ' |> reverse()',
  ' |> delay(0.5s)',
  ' |> retime(time * 2)',
  ' |> rise(0.2, 0.8)',
);
export const DIALS =
  'loop 4s at 30fps\ndial go: laps = 2 in -4..4\ndial free: rate = 0.5/s in -2/s..2/s\ndial k = 0.5 in 0..2\ndial lean: angle = 90deg in 0deg..360deg\nswitch flick = on\n';
export const anyMaterial = fc
  .tuple(
    fc.array(stage, { maxLength: 3 }),
    end,
    after,
    fc.constantFrom('n', 'n * wave(1 lap)', 'n * wave(1.5 laps)', 'n + flick * saw(0.3/s)', 'n * uv.x'),
  )
  .map(
    ([stages, last, then, out]) => `${DIALS}n = ${['uv', ...stages, last].join(' |> ')}${then}\nout color = ${out}\n`,
  );

/**
 * Stages that lead a whole loop back, in an order that keeps doing so: turning before moving, moving before counting.
 */
const laps = fc.integer({ min: -3, max: 3 }).map((n) => `${String(n)} laps`);
const wholeRate = fc.oneof(laps, fc.constantFrom('go', 'go * 2', 'go + 1 lap', '0.5/s', '0.25/s', 'free'));
const turns = fc.oneof(
  wholeRate.map((r) => `spin(${r})`),
  fc.constantFrom(
    'turn(20deg)',
    'turn(lean)',
    'polar()',
    'swirl(0.2turn, 0.4)',
    'offset(wave(2 laps), swing(0, k, go))',
    'flip(u)',
    'scale(1.3)',
    'bulge(0.2, 0.4)',
  ),
  wholeRate.map(
    (r) =>
      `distort(uv |> fbm(cells: 3, octaves: 2, evolve: ${r === 'free' || r.endsWith('/s') ? '1 lap' : r}), amount: 0.1)`,
  ),
);
const moves = fc.oneof(
  fc.tuple(wholeRate, fc.constantFrom(0, 90, 180, 270)).map(([r, h]) => `pan(${r}, heading: ${String(h)}deg)`),
  fc.tuple(wholeRate, wholeRate).map(([r, u]) => `pan(right: ${r}, up: ${u})`),
  wholeRate.map((r) => `slide(${r})`),
);
const counts = fc.constantFrom(
  'tile(2, 3)',
  'tile(3)',
  'scale(0.5)',
  'scale(0.25)',
  'flip(u)',
  'turn(90deg)',
  'turn(180deg)',
  'offset(0.2, k)',
);
const closedEnd = fc.oneof(
  laps.map((r) => `fbm(cells: 3, octaves: 2, evolve: ${r})`),
  fc.constantFrom(
    'gradient(cells: 4, evolve: go)',
    'cellular(cells: 3)',
    'simplex(cells: 4)',
    'ridged(cells: (3, 5), evolve: 2 laps)',
    'checker(2)',
    'stripes(3)',
    'white(cells: 5)',
    'specks(cells: 4, rate: 2 laps)',
    'luma_of(plain)',
    'luma_of(folded)',
  ),
);
const closedAfter = fc.constantFrom(
  '',
  ' |> hold(10 frames)',
  ' |> hold(0.5s)',
  ' |> reverse()',
  ' |> delay(0.7s)',
  ' |> retime(time * 2)',
  ' |> retime(swing(0s, 3s, 1 lap))',
  ' |> rise(0.2, 0.8)',
  ' |> weave(1s)',
);
/** Loops that anything closes by a cross-fade. */
const woven = anyMaterial.map((text) =>
  text.replace(/\nout color = n.*\n/, '\nn = n |> weave(0.8s)\nout color = n * wave(1 lap)\n'),
);
const built = fc
  .tuple(
    fc.array(turns, { maxLength: 2 }),
    fc.array(moves, { maxLength: 2 }),
    fc.array(counts, { maxLength: 2 }),
    closedEnd,
    closedAfter,
    fc.constantFrom(
      'n',
      'n * wave(3 laps)',
      'n * sin(time * 0.5/s * 1turn)',
      'n + flick * saw(1 lap)',
      'n * uv.x',
      'n + phase',
      'mix(n, 1 - n, wave(go))',
    ),
  )
  .map(([first, then, last, end, after, out]) => {
    // A mirrored image comes round every second lap.
    const stages = [
      'uv',
      ...first,
      ...then,
      ...last,
      ...(end.includes('folded') && then.length > 0 ? ['tile(2)'] : []),
      end,
    ];
    return `${DIALS}image plain = "a" repeat linear color\nimage folded = "b" mirror linear color\nop slide(at: vec2, r: rate) = at |> pan(r, heading: 90deg)\nop luma_of(at: vec2, which: image) = at |> sample(which) |> luma()\nn = ${stages.join(' |> ')}${after}\nout color = ${out}\n`;
  });
/** Materials whose loop closes by how they are built. */
export const closingMaterial = fc.oneof({ weight: 5, arbitrary: built }, { weight: 1, arbitrary: woven });
