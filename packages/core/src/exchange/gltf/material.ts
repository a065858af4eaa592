import type { Program } from '../../check/program.ts';
import type { SettingValues } from '../../check/values.ts';
import { compileOrThrow } from '../../compile.ts';
import { lineAndColumn } from '../../diagnostics/diagnostic.ts';
import type { ImageSource } from '../../image/pixels.ts';
import { Baking, type MadeSlot } from './baking.ts';
import type { GltfMaterial, GltfOptions, SlotReport } from './model.ts';
import { GltfPlanner } from './slots.ts';

/** Makes what a material is as glTF, as it is set. What all moments of it have in common is made once. */
export class GltfMaterials {
  readonly #planner: GltfPlanner;
  readonly #baking: Baking;

  /** Throws with a sentence where the material has errors, limits included. */
  constructor(
    readonly program: Program,
    values: SettingValues,
    images: ImageSource,
    options: GltfOptions,
  ) {
    const { graph } = compileOrThrow(program, { values });
    this.#planner = new GltfPlanner(graph, values.dials, images);
    this.#baking = new Baking(program.loop, values, images, options);
  }

  /** The material; `delay` shows it so many seconds later. */
  at(delay = 0): GltfMaterial {
    const { program } = this;
    const { slots, numbers, notes } = this.#planner.plan(delay);
    const made = slots.map((plan) => this.#baking.slot(plan, delay));
    const { lit, mode, twoSided } = program.surface;
    const isClear = slots.some((plan) => plan.slot === 'transmission');
    return {
      name: program.title,
      seconds: program.loop.seconds,
      isUnlit: !lit,
      alphaMode: isClear || mode === 'opaque' ? 'OPAQUE' : mode === 'mask' ? 'MASK' : 'BLEND',
      isDoubleSided: twoSided,
      slots: new Map(made.map(({ plan, value }) => [plan.slot, value])),
      numbers,
      report: {
        slots: made.map((slot) => reportOf(program, slot)),
        notes: [
          ...notes,
          ...made.flatMap((slot) => slot.notes),
          ...[...numbers].flatMap(([name, { error }]) =>
            error > 0 ? [`'${name}' follows keys; it is off by ${error.toPrecision(1)} at most.`] : [],
          ),
        ],
      },
    };
  }
}

function reportOf(program: Program, { plan, value: { texture }, frames }: MadeSlot): SlotReport {
  const { slot, outputs, fidelity, why, span, motion, factorKeys } = plan;
  return {
    slot,
    outputs,
    fidelity,
    ...(motion && motion.error > 0 ? { uvError: motion.error } : {}),
    ...(factorKeys.error > 0 ? { factorError: factorKeys.error } : {}),
    ...(texture ? { size: [texture.picture.width, texture.picture.height] } : {}),
    ...(frames > 1 ? { frames } : {}),
    ...(why === undefined ? {} : { why }),
    ...(span ? { line: lineAndColumn(program.tree.text, span.from).line } : {}),
  };
}
