import type { Channel, Loop, Surface } from '../../check/program.ts';
import type { Span } from '../../diagnostics/diagnostic.ts';
import { evaluateFrame } from '../../ir/evaluate.ts';
import { dependsOnTime, type Node } from '../../ir/node.ts';
import type { Graph } from '../../lower/lower.ts';
import type { Setting } from '../../prove/shifts.ts';
import { keysOf, type TransformKeys } from './keys.ts';
import { texturingOf, type TextureMotion } from './texturing.ts';
import type { TextureMatrix } from './transform.ts';

/** The textures of a glTF material, and the outputs that go into each: they share its transform. */
export const GLTF_SLOTS = {
  baseColor: ['color', 'opacity'],
  metallicRoughness: ['roughness', 'metallic'],
  normal: ['normal'],
  emissive: ['emissive'],
} as const satisfies Readonly<Record<string, readonly Channel[]>>;
export type GltfSlot = keyof typeof GLTF_SLOTS;

/**
 * How well a slot says what the material does: by factors alone or a transform that players follow exactly; by keys that
 * are near enough; not at all, so that its first moment is baked; or left out, as nothing of it can be said.
 */
export type SlotFidelity = 'exact' | 'keyed' | 'baked' | 'left out';

/** What is to be written into a slot, and how well that says what the material does. */
export interface SlotPlan {
  readonly slot: GltfSlot;
  /** Those of its outputs that the material has. */
  readonly outputs: readonly Channel[];
  readonly fidelity: SlotFidelity;
  /** Components of the outputs in turn, to be baked over the square: without time where it is exact or keyed. */
  readonly picture: readonly Node[];
  /** What each component is multiplied by, as time goes on. */
  readonly factors: readonly Node[];
  /** Where the picture is read from as time goes on; undefined where it stays in its place. */
  readonly motion: TransformKeys | undefined;
  /** Why it is not exact, as a sentence. */
  readonly why: string | undefined;
  /** Of the step that is why. */
  readonly span: Span | undefined;
}

/** What a material becomes as glTF: a plan for each slot that it uses, and what glTF cannot say of it at all. */
export interface GltfPlan {
  readonly slots: readonly SlotPlan[];
  readonly notes: readonly string[];
}

/** Plans the slots of a material as it is set. */
export function gltfPlan(graph: Graph, setting: Setting): GltfPlan {
  const { surface, loop } = graph.program;
  const slots = (Object.keys(GLTF_SLOTS) as GltfSlot[]).flatMap((slot) => {
    const outputs = outputsOf(slot, graph, surface);
    return outputs.length === 0 ? [] : [slotPlan(slot, outputs, graph, setting, loop)];
  });
  return { slots, notes: notesOf(graph, surface) };
}

/** Those outputs of a slot that show on the surface. */
function outputsOf(slot: GltfSlot, { outputs }: Graph, { lit, mode }: Surface): Channel[] {
  // Unlit materials have a colour, and nothing else.
  if (!lit && slot !== 'baseColor') return [];
  return GLTF_SLOTS[slot].filter((output) => outputs.has(output) && (output !== 'opacity' || mode !== 'opaque'));
}

function notesOf({ outputs }: Graph, { lit, mode }: Surface): string[] {
  const unsaid = (output: Channel): boolean => !lit && outputs.has(output);
  return [
    ...(mode === 'add' ? ['It adds to what is behind it, which glTF has no word for: it is written as blending.'] : []),
    ...(['metallic', 'roughness', 'normal', 'emissive', 'refraction'] as const)
      .filter(unsaid)
      .map((output) => `It is unlit: '${output}' shows nowhere, and is left out.`),
    ...(['cutoff', 'refraction'] as const).flatMap((output) => {
      const node = outputs.get(output);
      return node && !unsaid(output) && node.frequency !== 'constant'
        ? [
            `'${output}' is one number for the whole material in glTF: that of its middle at the first moment is written.`,
          ]
        : [];
    }),
  ];
}

function slotPlan(
  slot: GltfSlot,
  outputs: readonly Channel[],
  graph: Graph,
  setting: Setting,
  { seconds }: Loop,
): SlotPlan {
  const roots = outputs.map((output) => graph.outputs.get(output)!);
  const found = texturingOf(graph, roots, setting);
  const still = { slot, outputs, picture: roots, factors: [], motion: undefined, why: undefined, span: undefined };
  // Colours, alpha and emission have factors of their own, metal and roughness one each.
  if (slot === 'normal' && 'factors' in found && dependsOnTime(found.factors))
    return { ...still, fidelity: 'baked', why: 'How steep a normal map is cannot change in glTF.' };
  switch (found.kind) {
    case 'still':
      return { ...still, fidelity: 'exact', picture: found.picture, factors: found.factors };
    case 'moving': {
      const motion = keysOf(matrixAt(found.motion, setting), seconds, found.motion.isEven);
      const fidelity = motion.error === 0 ? 'exact' : 'keyed';
      return { ...still, fidelity, picture: found.picture, factors: found.factors, motion };
    }
    case 'changing':
      return { ...still, fidelity: 'baked', why: found.why, span: found.step?.span };
    case 'left out':
      return { ...still, fidelity: 'left out', why: found.why, span: found.step?.span };
  }
}

/** The matrix of a motion at a moment. */
function matrixAt({ rows }: TextureMotion, setting: Setting): (time: number) => TextureMatrix {
  const nodes = rows.flatMap(({ u, v, c }) => [u, v, c]);
  return (time) => {
    const values = evaluateFrame(nodes, { time, dials: setting });
    const [a = 0, b = 0, x = 0, d = 0, e = 0, y = 0] = nodes.map((node) => values.get(node)?.[0] ?? 0);
    return [
      [a, b, x],
      [d, e, y],
    ];
  };
}
