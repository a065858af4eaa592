import { compile, OPERATIONS, type Operation, type OperationParameter } from '../src/index.ts';

/** Random numbers of a seed, 0..1 (mulberry32). */
export function randomOf(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = Math.imul(state ^ (state >>> 15), state | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
  };
}

const HEAD = `dial go: laps = 2 in -4..4 by 1
dial half: laps = 1.5 in -4..4
dial free: rate = 0.3/s in -2/s..2/s
dial n = 3 in 0..6 by 1
dial k = 0.7 in 0..2
dial lean: angle = 30deg in 0deg..360deg
dial tm: time = 1s in 0s..4s
dial at: vec2 = (0.2, 0.3)
dial tint: color = #ff8800
switch flick = on
image pic = "a" repeat linear color
image fold = "b" mirror nearest data
image edge = "c" clamp linear color
ramp sky = 0% #102030, 50% #a0ffcc80, 100% #fff smooth
`;

type Kind = 'number' | 'vec2' | 'vec3' | 'vec4' | 'time' | 'rate' | 'angle';
const POOL: Readonly<Record<Kind, readonly string[]>> = {
  number: [
    '0.3',
    '0.5',
    '1',
    '2',
    '3',
    '-1',
    '0.333',
    'k',
    'n',
    'n + 1',
    'wave(1 lap)',
    'saw(go)',
    'phase',
    'uv.x',
    'uv.y',
    'flick',
    'frame',
    'k * 2',
  ],
  vec2: ['uv', 'uv', '(0.3, 0.7)', 'at', '(n, k)', 'uv2', '(uv.y, wave(go))'],
  vec3: ['(uv.x, uv.y, 0.3)', 'position', '(uv.x, phase, 0.5)'],
  vec4: ['tint', '#ff8040', '(uv |> sample(pic))', '#30609080'],
  time: ['0.5s', 'tm', '10 frames', 'time', 'phase * 2s', 'time * 2', '0.3s', 'loop_seconds'],
  rate: [
    '1 lap',
    '2 laps',
    '-3 laps',
    '0.25/s',
    '0.3/s',
    'go',
    'half',
    'free',
    'go * n',
    'go - 1 lap',
    'mix(1 lap, 3 laps, flick)',
    '0.5 laps',
  ],
  angle: ['90deg', '30deg', 'lean', '0deg', '0.25turn', '180deg', 'swing(0deg, 90deg, go)'],
};

/** A material of a seed: lines of all operations, each of which checks. */
export function materialOf(seed: number): string {
  const random = randomOf(seed);
  const pick = <T>(from: readonly T[]): T => from[Math.floor(random() * from.length)]!;
  const steps: Record<Kind, string[]> = { number: [], vec2: [], vec3: [], vec4: [], time: [], rate: [], angle: [] };
  const value = (kind: Kind): string => {
    const own = steps[kind];
    return own.length > 0 && random() < 0.6 ? pick(own) : pick(POOL[kind]);
  };
  const argument = (p: OperationParameter, wide: Kind): string | undefined => {
    const accepts = pick(p.accepts);
    if (p.constant) return String(1 + Math.floor(random() * 3));
    switch (accepts) {
      case 'image':
        return pick(['pic', 'fold', 'edge']);
      case 'ramp':
        return 'sky';
      case 'keyword':
        return pick(p.options ?? []);
      case 'color':
        return value(pick(['vec4', 'vec3', 'number']));
      case 'vector':
      case 'quantity':
        return value(wide);
      case 'radians':
        return value(pick(['number', 'angle']));
      default:
        return value(accepts);
    }
  };
  const callOf = (o: Operation): string => {
    const wide = pick<Kind>(['number', 'number', 'vec2']);
    const needed = (p: OperationParameter): boolean => p.default === undefined && !p.optional;
    const parts = o.parameters.flatMap((p) =>
      needed(p) || random() < 0.4 ? [`${p === o.parameters[0] ? '' : `${p.name}: `}${argument(p, wide)!}`] : [],
    );
    const [first = ''] = parts;
    return o.parameters.length > 0 && parts.length > 0 && random() < 0.7 && !first.includes(':')
      ? `(${first}) |> ${o.name}(${parts.slice(1).join(', ')})`
      : `${o.name}(${parts.join(', ')})`;
  };
  const sum = (): string => {
    const kind = pick<Kind>(['number', 'number', 'vec2', 'rate']);
    return kind === 'rate'
      ? `${value('time')} * ${value('rate')}`
      : `${value(kind)} ${pick(['+', '-', '*', '/'])} ${value(kind)}`;
  };
  let text = `loop ${pick(['1s', '2.5s', '4s', '10s'])} at ${pick(['24fps', '30fps', '60fps'])}\n${HEAD}`;
  const count = 2 + Math.floor(random() * 7);
  for (let i = 0, tries = 0; i < count && tries < 60; tries++) {
    const name = `s${String(i)}`;
    const line = `${random() < 0.06 ? 'off ' : ''}${name} = ${random() < 0.15 ? sum() : callOf(pick(OPERATIONS))}\n`;
    const { program, ok } = compile(text + line);
    const step = program.steps.at(-1);
    if (!ok && program.diagnostics.some((d) => d.severity === 'error' && d.code !== 'no-output')) continue;
    if (!step || step.type === 'unknown') continue;
    text += line;
    steps[step.type].push(name);
    i++;
  }
  const shown = [...steps.number, ...steps.vec4, ...steps.vec3];
  text += `out color = ${shown.length > 0 ? pick(shown) : 'uv.x'}\n`;
  return text;
}
