import { brokenMesh, PART_LIMIT, tooManyParts, type MeshRefused } from './limits.ts';
import { flaws } from '../wording.ts';

/** A JSON object of a glTF file, of which nothing is known yet. */
export type Part = Readonly<Record<string, unknown>>;

export const broken = (why: string): MeshRefused => brokenMesh('glTF', why);
export const missing = (what: string): MeshRefused => broken(flaws.notThere(what));
export const isPart = (value: unknown): value is Part =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

/** A list of parts; empty where there is none. */
export function partsIn(json: Part, name: string): readonly Part[] {
  const value = json[name] ?? [];
  if (!Array.isArray(value) || !value.every(isPart)) throw broken(flaws.notList(name));
  if (value.length > PART_LIMIT) throw tooManyParts(value.length);
  return value;
}

/** A whole number from 0 up. */
export function whole(value: unknown, what: string, otherwise?: number): number {
  const number = value ?? otherwise;
  if (typeof number !== 'number' || !Number.isSafeInteger(number) || number < 0) throw broken(flaws.notWhole(what));
  return number;
}

export const at = (list: readonly Part[], index: unknown, what: string): Part =>
  list[whole(index, `the number of ${what}`)] ?? fail(missing(what));
export const fail = (error: Error): never => {
  throw error;
};
