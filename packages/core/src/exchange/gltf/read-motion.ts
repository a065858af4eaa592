import { PHRASES } from '../../ops/phrases.ts';
import { distance, matrixOf, type TextureMatrix, type TextureTransform } from './transform.ts';
import { reasons } from '../../diagnostics/reasons.ts';

/** Keys of a number or two, as a file has them. */
export interface ReadTrack {
  /** In seconds, rising from 0 or later. */
  readonly times: readonly number[];
  readonly values: readonly (readonly number[])[];
  readonly isStepped: boolean;
}

/** How a texture is read: a transform, and keys of its parts. */
export interface ReadMotion {
  readonly transform: TextureTransform;
  readonly offset?: ReadTrack | undefined;
  readonly rotation?: ReadTrack | undefined;
  readonly scale?: ReadTrack | undefined;
}

/** Steps that read a picture so, or why they do not follow its keys: then they show its first moment. */
export interface ReadChain {
  readonly calls: readonly string[];
  readonly why: string | undefined;
}

/** Furthest that steps may read beside the keys, in UV units: keys of ours are within half of it. */
const NEAR = 1 / 512;
/** Moments at which steps are held against the keys, besides these. */
const LOOKS = 64;

/** What a track is at a moment. */
function valueAt({ times, values, isStepped }: ReadTrack, time: number): readonly number[] {
  const next = times.findIndex((t) => t > time);
  if (next === 0) return values[0]!;
  if (next < 0 || isStepped) return values[(next < 0 ? times.length : next) - 1]!;
  const share = (time - times[next - 1]!) / (times[next]! - times[next - 1]!);
  return values[next - 1]!.map((v, i) => v + (values[next]![i]! - v) * share);
}

/** The transform of a texture at a moment, in seconds. */
function transformAt({ transform, offset, rotation, scale }: ReadMotion, time: number): TextureTransform {
  const pair = (track: ReadTrack | undefined, otherwise: readonly [number, number]): readonly [number, number] =>
    track ? (valueAt(track, time) as unknown as readonly [number, number]) : otherwise;
  return {
    offset: pair(offset, transform.offset),
    rotation: rotation ? valueAt(rotation, time)[0]! : transform.rotation,
    scale: pair(scale, transform.scale),
  };
}

/** What moves evenly: tiles, then a turn, then a spin about a pivot, then a place that slides. */
interface Even {
  readonly scale: readonly [number, number];
  /** Radians, as glTF counts them. */
  readonly turn: number;
  /** Whole or other turns of a loop, as glTF counts them. */
  readonly laps: number;
  readonly pivot: readonly [number, number];
  readonly place: readonly [number, number];
  /** UV units a loop. */
  readonly slide: readonly [number, number];
}

const WHOLE = 2 * Math.PI;

/** Where even motion reads at a part of the loop. */
function evenAt({ scale, turn, laps, pivot, place, slide }: Even, share: number): TextureMatrix {
  const [[a, b], [d, e]] = matrixOf({ offset: [0, 0], rotation: laps * share * WHOLE, scale: [1, 1] });
  const [first, second] = matrixOf({ offset: [0, 0], rotation: turn, scale });
  const [p, q] = pivot;
  const along = (i: 0 | 1): number => place[i] + slide[i] * share;
  return [
    [a * first[0] + b * second[0], a * first[1] + b * second[1], p - a * p - b * q + along(0)],
    [d * first[0] + e * second[0], d * first[1] + e * second[1], q - d * p - e * q + along(1)],
  ];
}

/** The even motion that goes through a texture's transform at a few moments of a loop. */
function evenOf(motion: ReadMotion, seconds: number): Even {
  const at = (share: number): TextureTransform => transformAt(motion, seconds * share);
  const first = at(0);
  // As far as it comes before the end, where it may jump back.
  const nearly = at(1 - 1e-6);
  const laps = tidy((nearly.rotation - first.rotation) / WHOLE, 1e-3);
  const round = Math.abs(laps) > 1 ? 1 / Math.abs(laps) : 1;
  const [x, y] = first.offset;
  const after = round === 1 ? nearly.offset : at(round).offset;
  const slide = [(after[0] - x) / round, (after[1] - y) / round] as const;
  let pivot: readonly [number, number] = [0, 0];
  if (laps !== 0) {
    // Half a turn on, a pivot is half of what is between the two.
    const half = Math.min(0.5 / Math.abs(laps), 1 - 1e-6);
    const there = at(half).offset;
    pivot = [tidy((there[0] - x - slide[0] * half) / 2), tidy((there[1] - y - slide[1] * half) / 2)];
  }
  return {
    scale: [tidy(first.scale[0]), tidy(first.scale[1])],
    turn: (tidy((first.rotation * 360) / WHOLE) * WHOLE) / 360,
    laps,
    pivot,
    place: [tidy(x), tidy(y)],
    slide: [tidy(slide[0], 1e-3), tidy(slide[1], 1e-3)],
  };
}

/** A number that is nearly a plain one as that; keys are told as floats of 32 bits, and near enough. */
function tidy(value: number, near = 1e-5): number {
  const plain = [24, 1000].map((of) => Math.round(value * of) / of).find((v) => Math.abs(v - value) < near);
  return plain === undefined ? value : plain + 0;
}

/** Steps that read a texture as its keys have it, over a loop of so many seconds. */
export function chainOf(motion: ReadMotion, seconds: number): ReadChain {
  const tracks = [motion.offset, motion.rotation, motion.scale].filter((t) => t !== undefined);
  const still = { ...evenOf(motion, seconds), laps: 0, slide: [0, 0] as const, pivot: [0, 0] as const };
  if (tracks.length === 0) return { calls: callsOf(still), why: undefined };
  if (tracks.some((t) => t.isStepped)) return { calls: callsOf(still), why: reasons.steppedKeys };
  const even = evenOf(motion, seconds);
  const moments = [
    ...Array.from({ length: LOOKS }, (_, i) => (i + 0.5) / LOOKS),
    ...tracks.flatMap((t) => t.times.map((time) => time / seconds)),
  ];
  const isEven = moments
    .filter((share) => share < 1)
    .every((share) => distance(evenAt(even, share), matrixOf(transformAt(motion, seconds * share))) < NEAR);
  if (isEven) return { calls: callsOf(even), why: undefined };
  return { calls: callsOf(still), why: reasons.unevenKeys };
}

function callsOf({ scale, turn, laps, pivot, place, slide }: Even): string[] {
  const isNothing = (...values: readonly number[]): boolean => values.every((v) => written(v) === '0');
  return [
    ...(written(scale[0]) === '1' && written(scale[1]) === '1'
      ? []
      : [PHRASES.tiled(written(scale[0]), written(scale[1]))]),
    ...(isNothing(turn) ? [] : [PHRASES.turned(written((-turn * 360) / WHOLE))]),
    ...(isNothing(laps) ? [] : [PHRASES.spun(written(-laps), written(pivot[0]), written(pivot[1]))]),
    ...(isNothing(...place) ? [] : [PHRASES.offset(written(-place[0]), written(place[1]))]),
    ...(isNothing(...slide) ? [] : [PHRASES.panned(written(-slide[0]), written(slide[1]))]),
  ];
}

/** A number as Wake has it, to a millionth. */
export const written = (value: number): string => String(Number(value.toFixed(6)) + 0);
