import { colorOfHex } from '../ops/value-type.ts';

/**
 * Light from a direction: to it, its linear colour and strength, and how narrow it is (sharpness of a spherical
 * Gaussian).
 */
interface Lobe {
  readonly towards: readonly [number, number, number];
  readonly light: readonly [number, number, number];
  readonly sharpness: number;
}
/**
 * Light from everywhere: from above, from the side and from below, and two soft lights; and one key light that makes
 * highlights.
 */
export interface Environment {
  readonly label: string;
  readonly above: readonly number[];
  readonly level: readonly number[];
  readonly below: readonly number[];
  readonly lobes: readonly [Lobe, Lobe];
  readonly key: Omit<Lobe, 'sharpness'>;
}

const rgb = (hex: string, strength = 1): [number, number, number] =>
  colorOfHex(hex)
    .slice(0, 3)
    .map((c) => c * strength) as [number, number, number];

/** Environments of our own, made of formulas. Strengths are relative: 1 is white paper. */
export const ENVIRONMENTS = {
  studio: {
    label: 'Studio',
    above: rgb('#d5d9dd', 0.55),
    level: rgb('#8f9296', 0.5),
    below: rgb('#4a4844', 0.35),
    lobes: [
      { towards: [-0.8, 0.45, 0.4], light: rgb('#eef2ff', 1.6), sharpness: 14 },
      { towards: [0.3, 0.2, -0.93], light: rgb('#fff1dc', 1.2), sharpness: 9 },
    ],
    key: { towards: [0.45, 0.72, 0.53], light: rgb('#fff6ea', 2.6) },
  },
  dusk: {
    label: 'Dusk',
    above: rgb('#31466e', 0.6),
    level: rgb('#d9824f', 0.55),
    below: rgb('#2b211d', 0.4),
    lobes: [
      { towards: [-0.9, 0.08, -0.42], light: rgb('#ff9a4c', 3), sharpness: 10 },
      { towards: [0.6, 0.3, 0.74], light: rgb('#4e6ca8', 0.8), sharpness: 4 },
    ],
    key: { towards: [-0.86, 0.22, 0.46], light: rgb('#ffb070', 2.4) },
  },
  depths: {
    label: 'Depths',
    above: rgb('#3c8f9c', 0.7),
    level: rgb('#123c4a', 0.6),
    below: rgb('#05141c', 0.6),
    lobes: [
      { towards: [0.1, 0.98, 0.15], light: rgb('#a8f0ee', 2), sharpness: 18 },
      { towards: [-0.5, -0.4, 0.77], light: rgb('#2f7a5c', 0.6), sharpness: 5 },
    ],
    key: { towards: [0.12, 0.95, 0.28], light: rgb('#bff6ee', 1.8) },
  },
} as const satisfies Record<string, Environment>;
export type EnvironmentName = keyof typeof ENVIRONMENTS;
