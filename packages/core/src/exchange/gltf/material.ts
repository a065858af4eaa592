import { WasmEvaluator } from '../../backends/wasm/run.ts';
import { columnsFor } from '../../bake/columns.ts';
import type { Program } from '../../check/program.ts';
import type { SettingValues } from '../../check/values.ts';
import { compileOrThrow } from '../../compile.ts';
import { lineAndColumn } from '../../diagnostics/diagnostic.ts';
import type { ImageSource } from '../../image/pixels.ts';
import { dependsOnTime, inOrder, type ImageSlot, type Node } from '../../ir/node.ts';
import { toSrgb } from '../../ops/value-type.ts';
import { valueKeysOf, type TransformKeys, type ValueKeys } from './keys.ts';
import {
  FACTOR_NEAR,
  gltfPlan,
  momentOf,
  type GltfNumber,
  type GltfSlot,
  type SlotFidelity,
  type SlotPlan,
} from './slots.ts';

/** How a material is written as glTF. */
export interface GltfOptions {
  /** Pixels along a side of what is baked, or of one frame where it is a flipbook. */
  readonly size: number;
  /** Frames of what changes in itself; 0 bakes its first moment. */
  readonly frames: number;
}
export const GLTF_SIZES = [64, 128, 256, 512, 1024, 2048] as const;
/** Most frames of a flipbook. */
export const GLTF_FRAME_LIMIT = 256;
/** Longest side of a sheet of frames, in pixels. */
const SHEET_SIDE = 4096;
/** Pixels by which the edges of a frame are repeated around it, so that filters do not meet its neighbours. */
const BLEED = 2;
/** Longest side of an image of the material that is written in its own size, in pixels. */
const IMAGE_SIDE = 4096;

/** A picture of 8 bits a channel, rows from the top: red, green, blue, alpha. */
export interface GltfPicture {
  readonly width: number;
  readonly height: number;
  readonly data: Uint8Array<ArrayBuffer>;
  /** Light stored as sRGB, and alpha; else numbers as they are. */
  readonly isColor: boolean;
}

/** How a texture is read. */
export interface GltfTexture {
  readonly picture: GltfPicture;
  /** Beyond its sides, right and below. */
  readonly wrap: readonly [ImageSlot['wrap'], ImageSlot['wrap']];
  readonly filter: ImageSlot['filter'];
  readonly mipmaps: boolean;
  /** Where it is read from as time goes on; `stepped` jumps from key to key. */
  readonly motion: (TransformKeys & { readonly stepped: boolean }) | undefined;
}

/** A slot as it is written: a texture, if it differs from place to place, times factors, component by component. */
export interface GltfSlotValue {
  readonly texture: GltfTexture | undefined;
  readonly factors: ValueKeys;
  /** What all of it is multiplied by: above 1 for emission alone. */
  readonly strength: number;
}

/** What a slot says of the material, for a person. */
export interface SlotReport {
  readonly slot: GltfSlot;
  readonly outputs: readonly string[];
  readonly fidelity: SlotFidelity;
  /** How far a keyed texture is read beside its place, at most, in UV units. */
  readonly uvError?: number;
  /** How far keyed factors are off, at most. */
  readonly factorError?: number;
  /** Pixels of its texture. */
  readonly size?: readonly [number, number];
  readonly frames?: number;
  readonly why?: string;
  /** Of the text, from 1. */
  readonly line?: number;
}

/** A material as glTF has it: numbers, textures and keys, written by no library yet. */
export interface GltfMaterial {
  readonly name: string;
  /** The loop, in seconds: of all its keys. */
  readonly seconds: number;
  readonly isUnlit: boolean;
  readonly alphaMode: 'OPAQUE' | 'MASK' | 'BLEND';
  readonly isDoubleSided: boolean;
  readonly slots: ReadonlyMap<GltfSlot, GltfSlotValue>;
  readonly numbers: ReadonlyMap<GltfNumber, ValueKeys>;
  readonly report: GltfReport;
}
export interface GltfReport {
  readonly slots: readonly SlotReport[];
  /** What glTF cannot say, as sentences. */
  readonly notes: readonly string[];
}

/**
 * A material as glTF has it, as it is set; `delay` shows it so many seconds later. Throws with a sentence where it has
 * errors, limits included.
 */
export function gltfMaterial(
  program: Program,
  values: SettingValues,
  images: ImageSource,
  options: GltfOptions,
  delay = 0,
): GltfMaterial {
  const { graph } = compileOrThrow(program, { values });
  const { slots, numbers, notes } = gltfPlan(graph, values.dials, images, delay);
  const baking = new Baking(program, values, images, options, delay);
  const made = slots.map((plan) => baking.slot(plan));
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
      slots: made.map(({ plan, value, frames }) => reportOf(program, plan, value, frames)),
      notes: [
        ...notes,
        ...made.flatMap((m) => m.notes),
        ...[...numbers].flatMap(([name, { error }]) =>
          error > 0 ? [`'${name}' follows keys; it is off by ${error.toPrecision(1)} at most.`] : [],
        ),
      ],
    },
  };
}

function reportOf(program: Program, plan: SlotPlan, { texture }: GltfSlotValue, frames: number): SlotReport {
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

interface MadeSlot {
  readonly plan: SlotPlan;
  readonly value: GltfSlotValue;
  readonly frames: number;
  readonly notes: readonly string[];
}

/** Where each component of a slot stands among the channels of its texture, and what stands in the others. */
const CHANNELS: Readonly<Record<GltfSlot, readonly number[]>> = {
  baseColor: [0, 1, 2, 3],
  metallicRoughness: [1, 2],
  normal: [0, 1, 2],
  emissive: [0, 1, 2],
  transmission: [0],
};
const COLORS: ReadonlySet<GltfSlot> = new Set(['baseColor', 'emissive']);

const clamped = (v: number): number => Math.min(Math.max(v, 0), 1);
/** Above 1 by more than what floats of 32 bits leave. */
const isOver = (v: number): boolean => v > 1 + 1e-6;

class Baking {
  constructor(
    readonly program: Program,
    readonly values: SettingValues,
    readonly images: ImageSource,
    readonly options: GltfOptions,
    readonly delay: number,
  ) {}

  slot(plan: SlotPlan): MadeSlot {
    if (dependsOnTime(plan.picture)) return this.#baked(plan);
    const { slot, picture, factorKeys, motion } = plan;
    const whole = this.#reader(picture)(this.#sizeOf(picture), 0);
    const texture = whole.isFlat ? undefined : whole;
    const most = whole.planes.map((plane) => Math.max(0, mostOf(plane)));
    const peaks = factorKeys.keys[0]!.value.map((_, i) => Math.max(...factorKeys.keys.map((k) => k.value[i]!)));
    const isMoving = factorKeys.keys.length > 1;
    const isBeyond = most.some(
      (m, i) =>
        (isOver(m * peaks[i]!) && texture !== undefined && slot !== 'emissive') ||
        // Where both are below nothing their product is not.
        (factorKeys.keys.some((k) => k.value[i]! < 0) && whole.planes[i]!.some((v) => v < 0)),
    );
    if (isMoving && slot !== 'normal' && isBeyond)
      return this.#baked({
        ...plan,
        fidelity: 'baked',
        picture: plan.roots,
        motion: undefined,
        why: 'It goes beyond what glTF allows at times, 0 to 1: a picture and a factor cannot be cut off there together.',
      });
    if (slot === 'normal') {
      const value = { texture: this.#textureOf(plan, whole, [1, 1, 1], motion), factors: STILL, strength: 1 };
      return { plan, value, frames: 1, notes: [] };
    }
    // What is stored goes up to 1: the rest goes into the factors, and of emission into its strength.
    const scales = most.map((m) => (texture && (isMoving || slot === 'emissive') ? Math.max(m, 1) : 1));
    const scaled = (values: readonly number[]): number[] =>
      values.map((f, i) => f * (texture ? scales[i]! : whole.planes[i]![0]!));
    const strength = slot === 'emissive' ? Math.max(1, ...scaled(peaks)) : 1;
    const at = (time: number): number[] => scaled(plan.factorsAt(time)).map((v) => clamped(v / strength));
    const factors = isMoving
      ? valueKeysOf(at, this.program.loop.seconds, FACTOR_NEAR)
      : { keys: [{ time: 0, value: at(0) }], error: 0 };
    const isCut =
      slot === 'baseColor' &&
      [0, 1, 2].some((i) => isOver(texture ? most[i]! / scales[i]! : whole.planes[i]![0]! * peaks[i]!));
    return {
      plan,
      value: { texture: texture && this.#textureOf(plan, whole, scales, motion), factors, strength },
      frames: 1,
      notes: isCut ? [CUT] : [],
    };
  }

  /** What changes in itself: its first moment, or a sheet of frames. */
  #baked(given: SlotPlan): MadeSlot {
    const count = Math.max(this.options.frames, 1);
    const plan = given.fidelity === 'baked' && count > 1 ? { ...given, fidelity: 'flipbook' as const } : given;
    const { slot, picture } = plan;
    const columns = count === 1 ? 1 : columnsFor(count);
    const rows = Math.ceil(count / columns);
    const bleed = count === 1 ? 0 : BLEED;
    const side = Math.min(this.options.size, Math.floor(SHEET_SIDE / Math.max(columns, rows)) - 2 * bleed);
    const read = this.#reader(picture);
    const frames = Array.from({ length: count }, (_, i) => read([side, side], (this.program.loop.seconds * i) / count));
    const most = Math.max(...frames.flatMap((f) => f.planes.map(mostOf)));
    const strength = slot === 'emissive' ? Math.max(1, most) : 1;
    const scales = picture.map(() => strength);
    const isCut = slot === 'baseColor' && frames.some((f) => f.planes.slice(0, 3).some((p) => isOver(mostOf(p))));
    const notes = isCut ? [CUT] : [];
    const factors = { keys: [{ time: 0, value: picture.map(() => 1) }], error: 0 };
    if (count === 1) {
      const texture = this.#textureOf(plan, frames[0]!, scales, undefined);
      return { plan, value: { texture, factors, strength }, frames: 1, notes };
    }
    const cell = side + 2 * bleed;
    const [width, height] = [columns * cell, rows * cell];
    const data = new Uint8Array(width * height * 4);
    frames.forEach((frame, i) => {
      const own = pixelsOf(slot, frame, scales);
      const [left, top] = [(i % columns) * cell, Math.floor(i / columns) * cell];
      for (let y = 0; y < cell; y++)
        for (let x = 0; x < cell; x++) {
          const from = Math.min(Math.max(y - bleed, 0), side - 1) * side + Math.min(Math.max(x - bleed, 0), side - 1);
          data.set(own.subarray(from * 4, from * 4 + 4), ((top + y) * width + left + x) * 4);
        }
    });
    const keys = frames.map((_, i) => ({
      time: (this.program.loop.seconds * i) / count,
      transform: {
        offset: [((i % columns) * cell + bleed) / width, (Math.floor(i / columns) * cell + bleed) / height] as const,
        rotation: 0,
        scale: [side / width, side / height] as const,
      },
    }));
    const texture: GltfTexture = {
      picture: { width, height, data, isColor: COLORS.has(slot) },
      wrap: ['clamp', 'clamp'],
      filter: 'linear',
      mipmaps: false,
      // The last frame is held to the end of the loop.
      motion: {
        keys: [...keys, { ...keys.at(-1)!, time: this.program.loop.seconds }],
        error: 0,
        stepped: true,
      },
    };
    return {
      plan,
      value: { texture, factors, strength },
      frames: count,
      notes: [
        ...notes,
        `${nameOf(plan)}: frames lie side by side in one texture; a mesh whose UVs leave the square shows the neighbours.`,
      ],
    };
  }

  /** Images that are read as they are keep their size. */
  #sizeOf(picture: readonly Node[]): readonly [number, number] {
    const image = this.#imageOf(picture);
    const pixels = image && this.images(image);
    if (picture.every((node) => node.frequency !== 'pixel')) return [1, 1];
    if (!pixels) return [this.options.size, this.options.size];
    const by = Math.min(1, IMAGE_SIDE / Math.max(pixels.width, pixels.height));
    return [Math.max(1, Math.round(pixels.width * by)), Math.max(1, Math.round(pixels.height * by))];
  }

  /** The image of which all components are read where they lie; undefined where there is another way, or a second one. */
  #imageOf(picture: readonly Node[]): ImageSlot | undefined {
    const reads = inOrder(picture).filter((n) => n.kind === 'sample');
    const [first] = reads;
    if (first?.kind !== 'sample' || reads.some((n) => n.payload !== first.payload)) return undefined;
    const isRead = (node: Node): boolean =>
      node.frequency !== 'pixel' ||
      (node.kind === 'swizzle' && node.args[0]!.kind === 'sample' && node.args[0].args[0]!.kind === 'input');
    return picture.every(isRead) ? first.payload : undefined;
  }

  #textureOf(plan: SlotPlan, whole: Planes, scales: readonly number[], motion: TransformKeys | undefined): GltfTexture {
    const { slot, picture, tiles } = plan;
    const image = this.#imageOf(picture);
    const { width, height } = whole;
    return {
      picture: { width, height, data: pixelsOf(slot, whole, scales), isColor: COLORS.has(slot) },
      wrap: image ? [image.wrap, image.wrap] : [tiles[0] ? 'repeat' : 'clamp', tiles[1] ? 'repeat' : 'clamp'],
      filter: image?.filter ?? 'linear',
      mipmaps: true,
      motion: motion && { ...motion, stepped: false },
    };
  }

  /** Reads components over the square at a time of the animation, one number a pixel. */
  #reader(nodes: readonly Node[]): (size: readonly [number, number], time: number) => Planes {
    const evaluator = new WasmEvaluator(nodes, this.images);
    const isFlat = nodes.every((node) => node.frequency !== 'pixel');
    return ([width, height], time) => {
      evaluator.setFrame({ time: momentOf(time, this.delay, this.program.loop), dials: this.values.dials });
      return { planes: evaluator.picture(width, height), width, height, isFlat };
    };
  }
}

interface Planes {
  readonly planes: readonly Float32Array[];
  readonly width: number;
  readonly height: number;
  /** The same all over the square. */
  readonly isFlat: boolean;
}

const STILL: ValueKeys = { keys: [{ time: 0, value: [] }], error: 0 };

const nameOf = ({ outputs }: SlotPlan): string => outputs.map((o) => `'${o}'`).join(' and ');
const CUT = "'color' goes above 1 in places, and is cut off there: glTF holds it to 0 to 1.";

const mostOf = (plane: Float32Array): number => {
  let most = -Infinity;
  for (const v of plane) if (v > most) most = v;
  return most;
};

/** Components as bytes of a texture, each divided by its scale. */
function pixelsOf(
  slot: GltfSlot,
  { planes, width, height }: Planes,
  scales: readonly number[],
): Uint8Array<ArrayBuffer> {
  const data = new Uint8Array(width * height * 4).fill(255);
  const isColor = COLORS.has(slot);
  planes.forEach((plane, i) => {
    const channel = CHANNELS[slot][i]!;
    const scale = scales[i] ?? 1;
    for (let p = 0; p < width * height; p++) {
      const value = plane[p]! / scale;
      data[p * 4 + channel] = Math.round(
        255 *
          (slot === 'normal'
            ? clamped(value * 0.5 + 0.5)
            : isColor && channel < 3
              ? toSrgb(clamped(value))
              : clamped(value)),
      );
    }
  });
  return data;
}
