import { readSettings, type Program, type SettingValues } from '@estela/core';
import { say } from './wording.ts';

/** Stops a command with a plain sentence. */
export function fail(message: string): never {
  throw new Error(message);
}

/** Reads a whole number of at most nine digits. */
export function wholeNumber(option: string, text: string): number {
  return /^\d{1,9}$/.test(text) ? Number(text) : fail(say.takes(option, say.wholeNumber, text));
}

/** Reads one of some words. */
export function oneOf<T extends string>(option: string, text: string, words: readonly T[]): T {
  return words.find((word) => word === text) ?? fail(say.takes(option, words.join(', '), text));
}

/** Reads so many numbers with commas between. */
export function numbers(text: string, count: number, what: string): number[] {
  const values = text.split(',').map(Number);
  return values.length === count && values.every(Number.isFinite)
    ? values
    : fail(say.takes(what, say.numbers(count), text));
}

/** What a command was told of dials and switches. */
export interface Chosen {
  readonly variant?: string;
  readonly set: readonly string[];
}

/** The dials and switches of a variant, with what `--set` gives over them. */
export function chosenSettings(program: Program, { variant, set }: Chosen): SettingValues {
  const settings = readSettings(program, variant, set.map(settingPair));
  return typeof settings === 'string' ? fail(settings) : settings;
}

/** Reads `dial=value`. */
export function settingPair(pair: string): [name: string, text: string] {
  const at = pair.indexOf('=');
  return at < 0 ? fail(say.takes('--set', 'dial=value', pair)) : [pair.slice(0, at).trim(), pair.slice(at + 1).trim()];
}
