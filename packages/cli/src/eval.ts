import { lower, Reference, WasmEvaluator } from '@estela/core';
import { loadMaterial, printed } from './material.ts';
import { chosenSettings, fail, numbers } from './settings.ts';

interface EvalOptions {
  readonly step: string;
  readonly uv: string;
  readonly time: string;
  readonly set: readonly string[];
  readonly variant?: string;
  readonly sources?: string;
  readonly backend: string;
  readonly json?: boolean;
}

/** Prints a step's value; 1 where the material has errors or there is no such step, 2 where an option is wrong. */
export async function evalStep(file: string, options: EvalOptions): Promise<number> {
  try {
    const { text, program, images, diagnostics } = await loadMaterial(file, options.sources);
    const uv = numbers(options.uv, 2, '--uv');
    const [time = 0] = numbers(options.time, 1, '--time');
    const settings = chosenSettings(program, options.variant, options.set);
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
    const frame = { time, dials: settings.dials };
    const source = (slot: { name: string }) => images.get(slot.name);
    let value: readonly number[];
    if (options.backend === 'wasm') {
      const evaluator = new WasmEvaluator([root], source);
      evaluator.setFrame(frame);
      const out = new Float32Array(Number(root.type[1]));
      evaluator.block({ uv: Float32Array.from(uv) }, 1, [out]);
      value = [...out];
    } else if (options.backend === 'reference') {
      const reference = new Reference([root], source);
      reference.setFrame(frame);
      value = reference.pixel({ uv })[0] ?? [];
    } else fail(`--backend takes reference or wasm, not '${options.backend}'.`);
    console.log(options.json ? JSON.stringify({ value }) : value.join(' '));
    return diagnostics.some((d) => d.severity === 'error') ? 1 : 0;
  } catch (error) {
    console.error(error instanceof Error ? error.message : String(error));
    return 2;
  }
}
