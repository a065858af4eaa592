import { lower, readDialText, Reference, settingValues, type Program, type Value } from '@estela/core';
import { loadMaterial, printed } from './material.ts';

interface EvalOptions {
  readonly step: string;
  readonly uv: string;
  readonly time: string;
  readonly set: readonly string[];
  readonly variant?: string;
  readonly sources?: string;
  readonly json?: boolean;
}

function fail(message: string): never {
  throw new Error(message);
}

function numbers(text: string, count: number, what: string): number[] {
  const values = text.split(',').map(Number);
  return values.length === count && values.every(Number.isFinite)
    ? values
    : fail(`${what} takes ${count === 1 ? 'a number' : `${String(count)} numbers with commas between`}, not '${text}'.`);
}

/** Reads `dial=value` pairs; switches take on and off. */
function overrides(program: Program, pairs: readonly string[]): Map<string, Value> {
  const values = new Map<string, Value>();
  for (const pair of pairs) {
    const at = pair.indexOf('=');
    const [name, text] = at < 0 ? fail(`--set takes dial=value, not '${pair}'.`) : [pair.slice(0, at).trim(), pair.slice(at + 1).trim()];
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

/** Prints a step's value; 1 where the material has errors or there is no such step, 2 where an option is wrong. */
export async function evalStep(file: string, options: EvalOptions): Promise<number> {
  try {
    const { text, program, images, diagnostics } = await loadMaterial(file, options.sources);
    const uv = numbers(options.uv, 2, '--uv');
    const [time = 0] = numbers(options.time, 1, '--time');
    if (options.variant !== undefined && !program.variants.some((v) => v.name === options.variant)) fail(`There is no variant named "${options.variant}".`);
    const settings = settingValues(program, options.variant, overrides(program, options.set));
    for (const d of diagnostics) if (d.severity === 'error') console.error(printed(file, text, d));
    const channel = /^out\.(.+)$/.exec(options.step)?.[1];
    const graph = lower(program, settings.switches);
    // A name bound more than once means its last line.
    const step = program.steps
      .filter((s) => (channel === undefined ? s.kind === 'step' && s.name === options.step : s.kind === 'out' && s.name === channel && !s.off))
      .at(-1);
    const root = step && graph.steps[step.index];
    if (!root) {
      console.error(`There is no ${channel === undefined ? 'step' : 'output'} named '${channel ?? options.step}'.`);
      return 1;
    }
    const reference = new Reference([root], (slot) => images.get(slot.name));
    reference.setFrame({ time, dials: settings.dials });
    const value = reference.pixel({ uv })[0] ?? [];
    console.log(options.json ? JSON.stringify({ value }) : value.join(' '));
    return diagnostics.some((d) => d.severity === 'error') ? 1 : 0;
  } catch (error) {
    console.error(error instanceof Error ? error.message : String(error));
    return 2;
  }
}
