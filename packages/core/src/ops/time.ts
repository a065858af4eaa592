import type { Node } from '../ir/node.ts';
import { substitute } from '../ir/substitute.ts';
import { flow, shows, type LowerContext, type Operation } from './operation.ts';
import { HAIR, parameter } from './shared.ts';

const value = flow('value', 'quantity');
const boiling = 'uv |> fbm(cells: 4, evolve: 1 lap)';

/** What flows, at another time. */
const at = ({ b, time }: LowerContext, of: Node, other: Node): Node => substitute(b, of, new Map([[time, other]]));

/**
 * What flows, at another time and with another seed for all noise that moves with it. Still noise
 * keeps its seed, or a cross-fade would show it twice.
 */
function reseeded({ b, time }: LowerContext, of: Node, other: Node): Node {
  return substitute(b, of, new Map([[time, other]]), (node, args) => {
    if (node.kind !== 'call' || node.payload.seed === undefined) return undefined;
    const { seed } = node.payload;
    const seeded = args.map((arg, i) => (i === seed ? b.xor(arg, 0x5bd1e995) : arg));
    return b.node('call', node.type, seeded, node.payload);
  });
}

/** An operation that shows what flows at another time. */
const shownAt = (
  shownTime: NonNullable<Operation['shownTime']>,
  rest: Pick<Operation, 'name' | 'summary' | 'uses' | 'help' | 'parameters' | 'example'> & Partial<Operation>,
): Operation => ({
  family: 'time',
  result: 'widest',
  lane: 'shape',
  shownTime,
  lower: (c, a) => at(c, a.flow, shownTime(c, a)),
  ...rest,
});

/** The two times that a cross-fade shows, and how much of the present loop's there is. */
function crossFade({ b, loops, loopSeconds }: LowerContext, over: Node): { now: Node; earlier: Node; weight: Node } {
  const phase = b.fract(loops);
  const now = b.mul(phase, loopSeconds);
  // Past the middle the second copy is a loop earlier: it reaches 0 where the loop ends.
  const earlier = b.mul(b.sub(phase, b.truth(b.le(0.5, phase))), loopSeconds);
  const toCut = b.min(now, b.sub(loopSeconds, now));
  const weight = b.clamp(b.div(toCut, b.clamp(over, 1e-3, loopSeconds / 2)), 0, 1);
  return { now, earlier, weight };
}

export const time: readonly Operation[] = [
  shownAt((_, a) => a.node('t'), {
    name: 'retime',
    summary: 'Shows the input at another time',
    uses: 'slow down, speed up, ease',
    help: 'All motion before this stage uses the given time: retime(time * 2) doubles the speed, retime(0s) stops it. The time can differ per pixel.',
    parameters: [value, parameter('t', 'time', 'The time to show instead of the current time.')],
    timeParameter: 't',
    example: shows(`${boiling} |> retime(swing(0s, 4s, 1 lap))`),
  }),
  shownAt((c, a) => c.b.sub(c.time, a.node('t')), {
    name: 'delay',
    summary: 'Delays the input',
    uses: 'later, lag, stagger',
    help: 'Every frame appears later by the given time. A time that differs per pixel makes waves.',
    parameters: [value, parameter('t', 'time', 'The delay.', { range: [0, 4] })],
    example: shows('wave(1 lap) |> delay(uv.x * 4s)'),
  }),
  shownAt((c) => c.b.sub(c.loopSeconds, c.time), {
    name: 'reverse',
    summary: 'Plays the input backwards',
    uses: 'backwards',
    help: 'The loop runs from its end to its start.',
    parameters: [value],
    example: shows('saw(1 lap) |> reverse()'),
  }),
  shownAt((c, a) => c.b.mul(c.b.floor(c.b.add(c.b.div(c.time, a.node('every')), HAIR)), a.node('every')), {
    name: 'hold',
    summary: 'Makes time advance in steps',
    uses: 'stepped, stutter, film grain, low frame rate',
    help: 'The input freezes for the given time, then jumps: hold(3 frames) is animation on threes. A time that divides the loop evenly keeps it closed.',
    parameters: [value, parameter('every', 'time', 'How long each picture stays.', { range: [0, 1] })],
    timeStep: 'every',
    lane: 'steps',
    example: shows(`${boiling} |> hold(10 frames)`),
  }),
  shownAt(
    (c, a) => {
      const { now, earlier, weight } = crossFade(c, a.node('over'));
      return c.b.mix(earlier, now, weight);
    },
    {
      name: 'weave',
      summary: 'Closes any loop by crossfading with a copy one loop earlier',
      uses: 'close the loop, crossfade, seamless loop',
      help: 'Around the loop point a second copy shows, one that runs through it without a cut; the first fades out over the time given before the loop ends, and in again after it starts. Moving noise in the second copy has a seed of its own. At most half the loop.',
      parameters: [value, parameter('over', 'time', 'Length of the crossfade.', { range: [0, 4] })],
      example: shows('uv |> fbm(cells: 4, evolve: 0.3/s) |> weave(1s)'),
      lower: (c, a) => {
        const { now, earlier, weight } = crossFade(c, a.node('over'));
        return c.b.mix(reseeded(c, a.flow, earlier), at(c, a.flow, now), weight);
      },
    },
  ),
];
