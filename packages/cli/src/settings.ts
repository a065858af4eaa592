import { readDialText, settingValues, type Program, type SettingValues, type Value } from '@estela/core';

/** Stops a command with a plain sentence. */
export function fail(message: string): never {
  throw new Error(message);
}

/** Reads so many numbers with commas between. */
export function numbers(text: string, count: number, what: string): number[] {
  const values = text.split(',').map(Number);
  return values.length === count && values.every(Number.isFinite)
    ? values
    : fail(
        `${what} takes ${count === 1 ? 'a number' : `${String(count)} numbers with commas between`}, not '${text}'.`,
      );
}

/** Reads `dial=value` pairs; switches take on and off. */
function overrides(program: Program, pairs: readonly string[]): Map<string, Value> {
  const values = new Map<string, Value>();
  for (const pair of pairs) {
    const at = pair.indexOf('=');
    const [name, text] =
      at < 0 ? fail(`--set takes dial=value, not '${pair}'.`) : [pair.slice(0, at).trim(), pair.slice(at + 1).trim()];
    const dial = program.dials.find((d) => d.name === name);
    if (dial) {
      const read = readDialText(dial, text, program.loop);
      if ('complaint' in read) fail(read.complaint);
      else values.set(name, read.value);
    } else if (program.switches.some((s) => s.name === name)) {
      if (text !== 'on' && text !== 'off') fail(`'${name}' is a switch: it takes on or off.`);
      values.set(name, [text === 'on' ? 1 : 0]);
    } else fail(`There is no dial or switch named '${name}'.`);
  }
  return values;
}

/** What a command was told of dials and switches. */
export interface Chosen {
  readonly variant?: string;
  readonly set: readonly string[];
}

/** The dials and switches of a variant, with what `--set` gives over them. */
export function chosenSettings(program: Program, variant: string | undefined, pairs: readonly string[]): SettingValues {
  if (variant !== undefined && !program.variants.some((v) => v.name === variant))
    fail(`There is no variant named "${variant}".`);
  return settingValues(program, variant, overrides(program, pairs));
}
