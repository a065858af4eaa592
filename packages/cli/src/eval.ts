import { Reference, WasmEvaluator } from '@estela/core';
import { compiled, loadMaterial } from './material.ts';
import { fail, numbers, type Chosen } from './settings.ts';
import { say } from './wording.ts';

interface EvalOptions extends Chosen {
  readonly step: string;
  readonly uv: string;
  readonly time: string;
  readonly sources?: string;
  readonly backend: string;
  readonly json?: boolean;
}

/**
 * Prints a step's value; 1 where the material does not compile or there is no such step. Throws where an option is wrong.
 */
export async function evalStep(file: string, options: EvalOptions): Promise<number> {
  const material = await loadMaterial(file, options.sources);
  const { program, images } = material;
  const uv = numbers(options.uv, 2, '--uv');
  const [time = 0] = numbers(options.time, 1, '--time');
  const made = compiled(file, material, options);
  if (!made) return 1;
  const { graph, settings } = made;
  const channel = /^out\.(.+)$/.exec(options.step)?.[1];
  // A name bound more than once means its last line.
  const step = program.steps
    .filter((s) =>
      channel === undefined
        ? s.kind === 'step' && s.name === options.step
        : s.kind === 'out' && s.name === channel && !s.off,
    )
    .at(-1);
  const root = step && graph.steps[step.index];
  if (!root) {
    console.error(say.nothingNamed(channel === undefined ? 'step' : 'output', channel ?? options.step));
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
  } else fail(say.takes('--backend', 'reference or wasm', options.backend));
  console.log(options.json ? JSON.stringify({ value }) : value.join(' '));
  return 0;
}
