import { fromSrgb, srgbByte } from './srgb.ts';

/** Types of values in Wake. */
export const VALUE_TYPES = ['number', 'vec2', 'vec3', 'vec4', 'time', 'rate', 'angle'] as const;
export type ValueType = (typeof VALUE_TYPES)[number];

/** Components of a value. Times are kept in seconds, rates in periods a loop, angles in turns. */
export const componentsOf = (type: ValueType): 1 | 2 | 3 | 4 =>
  type === 'vec2' ? 2 : type === 'vec3' ? 3 : type === 'vec4' ? 4 : 1;

export const isVector = (type: ValueType): boolean => componentsOf(type) > 1;
/** Numbers and vectors; the others carry a unit. */
export const isPlain = (type: ValueType): boolean => type === 'number' || isVector(type);

export const vectorOf = (components: number): ValueType =>
  components === 1 ? 'number' : (`vec${String(components)}` as ValueType);

/** A ramp as declared: stops in order, colours linear with straight alpha. */
export interface RampTable {
  readonly name: string;
  readonly stops: readonly { readonly at: number; readonly color: readonly [number, number, number, number] }[];
  readonly easing: 'linear' | 'smooth' | 'stepped';
}

/** `#rgb`, `#rrggbb` or `#rrggbbaa` as linear red, green, blue and straight alpha. */
export function colorOfHex(hex: string): [number, number, number, number] {
  const digits = hex.length === 4 ? [...hex.slice(1)].map((d) => d + d).join('') : hex.slice(1);
  const part = (i: number): number => parseInt(digits.slice(i * 2, i * 2 + 2) || 'ff', 16) / 255;
  return [fromSrgb(part(0)), fromSrgb(part(1)), fromSrgb(part(2)), part(3)];
}

/** The hex text nearest to a linear colour; alpha is left out where it is 1. */
export function hexOfColor(color: readonly number[]): string {
  const [r = 0, g = 0, b = 0, a = 1] = color;
  const hex = (byte: number): string => byte.toString(16).padStart(2, '0');
  const opaque = `#${[r, g, b].map((c) => hex(srgbByte(c))).join('')}`;
  const alpha = Math.round(Math.min(Math.max(a, 0), 1) * 255);
  return alpha === 255 ? opaque : opaque + hex(alpha);
}
