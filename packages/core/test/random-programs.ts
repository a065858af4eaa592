import fc from 'fast-check';

/** Random Wake texts that check: every step has a known type and uses steps above it. */
type Type = 'number' | 'vec2' | 'vec4';
interface Line {
  readonly type: Type;
  readonly make: (pick: (type: Type) => string, n: () => string) => string;
}

const coordinate = (call: (n: () => string, pick: (t: Type) => string) => string): Line => ({
  type: 'vec2',
  make: (pick, n) => `${pick('vec2')} |> ${call(n, pick)}`,
});
const fromPlace = (call: (n: () => string) => string): Line => ({
  type: 'number',
  make: (pick, n) => `${pick('vec2')} |> ${call(n)}`,
});
const shaped = (call: (n: () => string, pick: (t: Type) => string) => string): Line => ({
  type: 'number',
  make: (pick, n) => `${pick('number')} |> ${call(n, pick)}`,
});
const colored = (call: (n: () => string, pick: (t: Type) => string) => string): Line => ({
  type: 'vec4',
  make: (pick, n) => `${pick('vec4')} |> ${call(n, pick)}`,
});

/** Continuous operations: a hard edge would turn a difference in the last bit into one of all. */
const LINES: readonly Line[] = [
  coordinate((n) => `tile(${n()}, ${n()})`),
  coordinate(() => 'pan(1 lap, heading: 210deg)'),
  coordinate((n) => `pan(right: boil, up: ${n()}/s)`),
  coordinate(() => 'spin(0.2/s)'),
  coordinate((n) => `scale(${n()}, pivot: (0.2, ${n()}))`),
  coordinate((n, pick) => `distort(${pick('number')}, amount: ${n()})`),
  coordinate((n) => `swirl(${n()}turn, ${n()})`),
  coordinate((n) => `bulge(${n()}, 0.7)`),
  coordinate((n) => `offset(swing(0, ${n()}, boil), 0.1)`),
  fromPlace((n) => `fbm(cells: 3, octaves: 2, evolve: boil, seed: ${n()})`),
  fromPlace(() => 'value(cells: (2, 5), evolve: 0.3/s)'),
  fromPlace(() => 'simplex(cells: 4)'),
  fromPlace(() => 'cellular(cells: 3)'),
  fromPlace(() => 'linear_gradient(70deg)'),
  fromPlace((n) => `radial_gradient(radius: ${n()})`),
  shaped((n) => `rise(0.1, ${n()} + 0.2)`),
  shaped((n) => `power(${n()})`),
  shaped((n) => `contrast(${n()})`),
  shaped(() => 'invert()'),
  shaped(() => 'sin()'),
  shaped((_, pick) => `mix(${pick('number')}, 0.3)`),
  shaped((_, pick) => `max(${pick('number')})`),
  shaped(() => 'reveal(wave(1 lap), 0.8)'),
  { type: 'number', make: (pick) => `(${pick('number')} |> delay(0.3s)) * ${pick('number')}` },
  shaped(() => 'weave(1s)'),
  { type: 'vec4', make: (pick) => `${pick('number')} |> ramp(sky)` },
  colored((_, pick) => `blend(${pick('vec4')}, soft_light, ${pick('number')})`),
  colored((_, pick) => `over(${pick('vec4')})`),
  colored((n) => `saturation(${n()})`),
  colored((_, pick) => `mix(${pick('vec4')}, ${pick('number')})`),
  { type: 'number', make: (pick) => `${pick('vec4')} |> luma()` },
  { type: 'number', make: (pick) => `clamp(${pick('number')} * ${pick('number')} + ${pick('vec2')}.x, 0, 2)` },
];

const HEAD =
  'loop 4s at 30fps\ndial boil: laps = 2 in 0..4\nramp sky = 0% #102030, 50% #a0ffcc80, 100% #fff smooth\ns0 = uv\ns1 = uv.y\ns2 = (uv.x, 0.4, uv.y, 0.9)\n';

/** Texts of up to twelve steps and an output. */
export const program: fc.Arbitrary<string> = fc
  .array(fc.tuple(fc.nat({ max: LINES.length - 1 }), fc.infiniteStream(fc.nat({ max: 999 }))), {
    minLength: 1,
    maxLength: 12,
  })
  .map((choices) => {
    const types: Type[] = ['vec2', 'number', 'vec4'];
    const lines = choices.map(([choice, numbers]) => {
      const line = LINES[choice]!;
      const next = (): number => numbers.next().value as number;
      const pick = (type: Type): string => {
        const fitting = types.flatMap((t, i) => (t === type ? [i] : []));
        return `s${String(fitting[next() % fitting.length])}`;
      };
      const text = line.make(pick, () => String(((next() % 8) + 1) / 4));
      types.push(line.type);
      return `s${String(types.length - 1)} = ${text}\n`;
    });
    const last = types.length - 1;
    return `${HEAD}${lines.join('')}out color = ${types[last] === 'vec2' ? `s${String(last)}.x` : `s${String(last)}`}\n`;
  });
