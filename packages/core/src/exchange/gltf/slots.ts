import type { Channel, Loop, Surface } from '../../check/program.ts';
import type { Span } from '../../diagnostics/diagnostic.ts';
import { Reference } from '../../backends/reference/evaluate.ts';
import type { ImageSource } from '../../image/pixels.ts';
import { evaluateFrame, type FrameInputs } from '../../ir/evaluate.ts';
import { dependsOnTime, type Node } from '../../ir/node.ts';
import type { Graph } from '../../lower/lower.ts';
import { Shifts, type Setting } from '../../prove/shifts.ts';
import { endsAtItsEdge } from './edges.ts';
import { keysOf, valueKeysOf, type TransformKeys, type ValueKeys } from './keys.ts';
import { texturingOf, type TextureMotion, type Texturing } from './texturing.ts';
import type { TextureMatrix } from './transform.ts';
import { reasons } from '../../diagnostics/reasons.ts';

/** What goes into one texture of a glTF material: its outputs share the texture's transform. */
interface Slot {
  readonly outputs: readonly Channel[];
  /** What is written, one number a component, linear light for colours. */
  readonly parts: (look: Look) => readonly Node[];
}

/** What a surface puts out, with what the Stage takes for what it does not. */
interface Look {
  readonly graph: Graph;
  /** A component of an output. */
  readonly part: (output: Channel, component?: number) => Node;
  /** How much it covers; undefined where it covers all. */
  readonly alpha: Node | undefined;
  /** It lets light through and bends it: how much it covers is how little it lets through. */
  readonly isClear: boolean;
}

/** What the Stage takes where a surface does not put it out. */
const USUAL: Partial<Record<Channel, readonly number[]>> = {
  color: [0.18, 0.18, 0.18, 1],
  roughness: [0.6],
  metallic: [0],
};

/** The textures of a glTF material. */
export const GLTF_SLOTS = {
  baseColor: {
    outputs: ['color', 'opacity'],
    parts: ({ graph, part, alpha, isClear }) => [
      ...[0, 1, 2].map((i) => part('color', i)),
      alpha && !isClear ? alpha : graph.builder.number(1),
    ],
  },
  metallicRoughness: { outputs: ['roughness', 'metallic'], parts: ({ part }) => [part('roughness'), part('metallic')] },
  normal: { outputs: ['normal'], parts: ({ part }) => [0, 1, 2].map((i) => part('normal', i)) },
  emissive: { outputs: ['emissive'], parts: ({ part }) => [0, 1, 2].map((i) => part('emissive', i)) },
  transmission: {
    outputs: ['opacity'],
    parts: ({ graph, alpha }) => [
      alpha ? graph.builder.sub(1, graph.builder.clamp(alpha, 0, 1)) : graph.builder.number(0),
    ],
  },
} as const satisfies Readonly<Record<string, Slot>>;
export type GltfSlot = keyof typeof GLTF_SLOTS;

/** Numbers of a glTF material that are the same all over it, and may change with time: the least that glTF allows. */
const LEAST = { cutoff: 0, refraction: 1 } as const satisfies Partial<Record<Channel, number>>;
export type GltfNumber = keyof typeof LEAST;
const NUMBERS = Object.keys(LEAST) as readonly GltfNumber[];

/**
 * How well a slot says what the material does: by factors alone or a transform that players follow exactly; by keys that
 * are near enough; by pictures that follow each other; not at all, so that its first moment is baked; or with something
 * left out of which a texture knows nothing.
 */
export type SlotFidelity = 'exact' | 'keyed' | 'flipbook' | 'baked' | 'left out';

/** What is to be written into a slot, and how well that says what the material does. */
export interface SlotPlan {
  readonly slot: GltfSlot;
  /** Those of its outputs that the material has. */
  readonly outputs: readonly Channel[];
  readonly fidelity: SlotFidelity;
  /** What the material puts out there, component by component, with its dials set. */
  readonly roots: readonly Node[];
  /** The same to be baked over the square: without time where it is exact or keyed. */
  readonly picture: readonly Node[];
  /** What each component is multiplied by, by seconds of the animation. */
  readonly factorsAt: (time: number) => readonly number[];
  /** The same as keys; one where they stand still. */
  readonly factorKeys: ValueKeys;
  /** Where the picture is read from as time goes on; undefined where it stays in its place. */
  readonly motion: TransformKeys | undefined;
  /** Whether the picture goes on beyond its right and its lower edge as it begins at the other. */
  readonly tiles: readonly [boolean, boolean];
  /** Why it is not exact, as a sentence. */
  readonly why: string | undefined;
  /** Of the step that is why. */
  readonly span: Span | undefined;
}

/** What a material becomes as glTF: a plan for each slot that it uses, its numbers, and what glTF cannot say at all. */
export interface GltfPlan {
  readonly slots: readonly SlotPlan[];
  readonly numbers: ReadonlyMap<GltfNumber, ValueKeys>;
  readonly notes: readonly string[];
}

/** Furthest that keys of factors may be off: so near that dark colours stay within two steps of 255. */
export const FACTOR_NEAR = 1 / 8192;

/** Whether it bends what is seen through it. */
const isClear = ({ outputs, program: { surface } }: Graph): boolean =>
  surface.lit && surface.mode === 'blend' && outputs.has('refraction');

/** Whether a number shows on the surface. */
const hasNumber = (name: GltfNumber, graph: Graph): boolean =>
  graph.outputs.has(name) && (name === 'cutoff' ? graph.program.surface.mode === 'mask' : isClear(graph));

/** Those outputs of a slot that show on the surface. */
function outputsOf(slot: GltfSlot, graph: Graph, { lit, mode }: Surface): Channel[] {
  // Unlit materials have a colour, and nothing else.
  if (!lit && slot !== 'baseColor') return [];
  if (slot === 'transmission')
    return !isClear(graph) ? [] : [graph.outputs.has('opacity') ? ('opacity' as const) : ('color' as const)];
  return GLTF_SLOTS[slot].outputs.filter(
    (output) => graph.outputs.has(output) && (output !== 'opacity' || (mode !== 'opaque' && !isClear(graph))),
  );
}

function notesOf(graph: Graph, { lit, mode }: Surface): string[] {
  const { outputs } = graph;
  return [
    ...(mode === 'add' ? [reasons.noAdditive] : []),
    ...(['metallic', 'roughness', 'normal', 'emissive', 'refraction'] as const)
      .filter((output) => !lit && outputs.has(output))
      .map((output) => reasons.unlitOutput(output)),
    ...NUMBERS.filter((name) => hasNumber(name, graph) && outputs.get(name)!.frequency === 'pixel').map((name) =>
      reasons.singleInGltf(name),
    ),
  ];
}

/** Plans the slots of a material as it is set. What does not hang on time is found out once. */
export class GltfPlanner {
  readonly #loop: Loop;
  readonly #look: Look;
  readonly #found = new Map<GltfSlot, Found>();

  constructor(
    readonly graph: Graph,
    readonly setting: Setting,
    readonly images?: ImageSource,
  ) {
    const { builder: b, outputs, program } = graph;
    const part = (output: Channel, component = 0): Node => {
      const own = outputs.get(output);
      return own ? b.swizzle(own, component) : b.number(USUAL[output]?.[component] ?? 0);
    };
    this.#loop = program.loop;
    const alpha = outputs.has('opacity') ? part('opacity') : part('color', 3);
    this.#look = { graph, part, alpha: program.surface.mode === 'opaque' ? undefined : alpha, isClear: isClear(graph) };
  }

  /** The plan; `delay` shows the material so many seconds later, for copies that follow each other. */
  plan(delay = 0): GltfPlan {
    const { graph } = this;
    const slots = (Object.keys(GLTF_SLOTS) as GltfSlot[]).flatMap((slot) => {
      const outputs = outputsOf(slot, graph, graph.program.surface);
      return outputs.length === 0 ? [] : [this.#slot(slot, outputs, delay)];
    });
    const numbers = new Map(
      NUMBERS.filter((name) => hasNumber(name, graph)).map((name) => [name, this.#number(name, delay)]),
    );
    return { slots, numbers, notes: notesOf(graph, graph.program.surface) };
  }

  #slot(slot: GltfSlot, outputs: readonly Channel[], delay: number): SlotPlan {
    let known = this.#found.get(slot);
    if (!known) this.#found.set(slot, (known = this.#finding(slot)));
    const { picture, factors, motion: moving, ...told } = known;
    const factorsAt = this.#valuesAt(factors, delay);
    const factorKeys = this.#keys(factors, factorsAt);
    const motion = moving && keysOf(this.#matrixAt(moving, delay), this.#loop.seconds, moving.isEven && delay === 0);
    const isOff = factorKeys.error > 0 || (motion?.error ?? 0) > 0;
    return {
      slot,
      outputs,
      picture,
      factorsAt,
      factorKeys,
      motion,
      ...told,
      fidelity: told.fidelity ?? (isOff ? 'keyed' : 'exact'),
    };
  }

  #finding(slot: GltfSlot): Found {
    const roots = GLTF_SLOTS[slot].parts(this.#look);
    const found = texturingOf(this.graph, roots, this.setting);
    const said = this.#said(slot, roots, found);
    const { leftOut } = found;
    return leftOut ? { ...said, fidelity: 'left out', why: leftOut.why, span: leftOut.step?.span } : said;
  }

  #said(slot: GltfSlot, roots: readonly Node[], found: Texturing): Found {
    const one = this.graph.builder.number(1);
    const baked = (all: readonly Node[], why: string, span?: Span): Found => ({
      roots,
      picture: all,
      factors: all.map(() => one),
      motion: undefined,
      tiles: this.#tiles(all),
      fidelity: 'baked',
      why,
      span,
    });
    if (found.kind === 'changing') return baked(found.roots, found.why, found.step?.span);
    const { picture, factors } = found;
    // Colours, alpha and emission have factors of their own, metal and roughness one each.
    if (slot === 'normal' && dependsOnTime(factors)) return baked(roots, reasons.normalStrength);
    const motion = found.kind === 'moving' ? found.motion : undefined;
    if (found.kind === 'moving' && found.isBeyond && !this.#endsAtItsEdge(picture, found.motion))
      return baked(roots, reasons.doesNotTile);
    const tiles = this.#tiles(picture);
    return { roots, picture, factors, motion, tiles, fidelity: undefined, why: undefined, span: undefined };
  }

  #endsAtItsEdge(picture: readonly Node[], motion: TextureMotion): boolean {
    const matrixAt = this.#matrixAt(motion, 0);
    const moments = keysOf(matrixAt, this.#loop.seconds, motion.isEven).keys.map((key) => matrixAt(key.time));
    return endsAtItsEdge(picture, moments, this.#frame(0, 0), this.images);
  }

  /** A number of the material over one loop: that of its middle where it is not the same all over it. */
  #number(name: GltfNumber, delay: number): ValueKeys {
    const node = this.graph.outputs.get(name)!;
    if (node.frequency !== 'pixel') {
      const at = this.#valuesAt([node], delay);
      return this.#keys([node], (time) => [Math.max(at(time)[0]!, LEAST[name])]);
    }
    const evaluator = new Reference([node]);
    evaluator.setFrame(this.#frame(0, delay));
    const [value] = evaluator.pixel({ uv: [0.5, 0.5] })[0]!;
    return { keys: [{ time: 0, value: [Math.max(value!, LEAST[name])] }], error: 0 };
  }

  #valuesAt(nodes: readonly Node[], delay: number): (time: number) => number[] {
    return (time) => {
      const values = evaluateFrame(nodes, this.#frame(time, delay));
      return nodes.map((node) => values.get(node)?.[0] ?? 0);
    };
  }

  #keys(nodes: readonly Node[], at: (time: number) => readonly number[]): ValueKeys {
    return dependsOnTime(nodes)
      ? valueKeysOf(at, this.#loop.seconds, FACTOR_NEAR)
      : { keys: [{ time: 0, value: at(0) }], error: 0 };
  }

  #tiles(picture: readonly Node[]): [boolean, boolean] {
    const returns = (shift: 'tile_u' | 'tile_v'): boolean => {
      const shifts = new Shifts(this.graph, shift, this.setting);
      return picture.every((node) => shifts.returns(node));
    };
    return [returns('tile_u'), returns('tile_v')];
  }

  /** The moment of the loop that is shown at a time of the animation: late ones go on from the end of the loop. */
  #frame(time: number, delay: number): FrameInputs {
    const { seconds } = this.#loop;
    const moment = delay === 0 ? time : (((time - delay) % seconds) + seconds) % seconds;
    return { time: moment, dials: this.setting };
  }

  /** The matrix of a motion by seconds of the animation. */
  #matrixAt({ rows }: TextureMotion, delay: number): (time: number) => TextureMatrix {
    const valuesAt = this.#valuesAt(
      rows.flatMap(({ u, v, c }) => [u, v, c]),
      delay,
    );
    return (time) => {
      const [a = 0, b = 0, x = 0, d = 0, e = 0, y = 0] = valuesAt(time);
      return [
        [a, b, x],
        [d, e, y],
      ];
    };
  }
}

/** What is known of a slot whenever it is shown. */
interface Found extends Pick<SlotPlan, 'roots' | 'picture' | 'tiles' | 'why' | 'span'> {
  readonly factors: readonly Node[];
  readonly motion: TextureMotion | undefined;
  /** Undefined where it hangs on how near its keys are. */
  readonly fidelity: SlotFidelity | undefined;
}
