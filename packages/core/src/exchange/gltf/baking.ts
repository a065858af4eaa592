import { rowsOf } from '../../backends/wasm/rows.ts';
import { srgbByte } from '../../ops/srgb.ts';
import { columnsFor } from '../../bake/columns.ts';
import type { Loop } from '../../check/program.ts';
import type { SettingValues } from '../../check/values.ts';
import type { ImageSource } from '../../image/pixels.ts';
import { dependsOnTime, inOrder, type ImageSlot, type Node } from '../../ir/node.ts';
import { valueKeysOf, type TransformKey, type ValueKeys } from './keys.ts';
import type { GltfOptions, GltfPicture, GltfSlotValue, GltfTexture } from './model.ts';
import { FACTOR_NEAR, type GltfSlot, type SlotPlan } from './slots.ts';
import { reasons } from '../../diagnostics/reasons.ts';

/** Longest side of a sheet of frames, in pixels. */
const SHEET_SIDE = 4096;
/** Pixels by which the edges of a frame are repeated around it, so that filters do not meet its neighbours. */
const BLEED = 2;
/** Longest side of an image of the material that is written in its own size, in pixels. */
const IMAGE_SIDE = 4096;

/** A slot that is made, and what is to be said of it. */
export interface MadeSlot {
  readonly plan: SlotPlan;
  readonly value: GltfSlotValue;
  readonly frames: number;
  readonly notes: readonly string[];
}

/** Where each component of a slot stands among the channels of its texture. */
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

/** Bakes the pictures of slots, each once, whatever moment of the loop a copy begins with. */
export class Baking {
  readonly #pictures = new Map<string, Baked>();

  constructor(
    readonly loop: Loop,
    readonly values: SettingValues,
    readonly images: ImageSource,
    readonly options: GltfOptions,
  ) {}

  slot(plan: SlotPlan, delay: number): MadeSlot {
    if (dependsOnTime(plan.picture)) return this.#changing(plan, delay);
    const { slot, picture, factorKeys, motion } = plan;
    const baked = this.#baked(plan, this.#sizeOf(picture), 1);
    const { most, isFlat } = baked;
    const isMoving = factorKeys.keys.length > 1;
    const peaks = factorKeys.keys[0]!.value.map((_, i) => Math.max(...factorKeys.keys.map((k) => k.value[i]!)));
    // Where a picture and a factor are both below nothing, their product is not.
    const isBelow = (i: number): boolean => baked.least[i]! < 0 && factorKeys.keys.some((k) => k.value[i]! < 0);
    const isBeyond = most.some((m, i) => isBelow(i) || (isOver(m * peaks[i]!) && slot !== 'emissive'));
    if (isMoving && !isFlat && isBeyond)
      return this.#changing(
        { ...plan, fidelity: 'baked', picture: plan.roots, motion: undefined, why: reasons.beyondUnit },
        delay,
      );
    const moved = motion && { ...motion, isStepped: false };
    if (slot === 'normal') {
      const texture = { ...this.#texture(plan, baked, NO_SCALES), motion: moved };
      return this.#made(plan, { texture, factors: STILL, strength: 1 });
    }
    // What is stored goes up to 1: the rest goes into the factors, and of emission into its strength.
    const scales = most.map((m) => (!isFlat && (isMoving || slot === 'emissive') ? Math.max(m, 1) : 1));
    const scaled = (values: readonly number[]): number[] =>
      values.map((f, i) => f * (isFlat ? baked.frames[0]!.planes[i]![0]! : scales[i]!));
    const strength = slot === 'emissive' ? Math.max(1, ...scaled(peaks)) : 1;
    const at = (time: number): number[] => scaled(plan.factorsAt(time)).map((v) => clamped(v / strength));
    const factors = isMoving
      ? valueKeysOf(at, this.loop.seconds, FACTOR_NEAR)
      : { keys: [{ time: 0, value: at(0) }], error: 0 };
    const isCut =
      slot === 'baseColor' && [0, 1, 2].some((i) => isOver(most[i]! * (isFlat ? peaks[i]! : 1 / scales[i]!)));
    const texture = isFlat ? undefined : { ...this.#texture(plan, baked, scales), motion: moved };
    return this.#made(plan, { texture, factors, strength }, isCut ? [reasons.colorClamped] : []);
  }

  /** What changes in itself: its first moment, or a sheet of frames. */
  #changing(given: SlotPlan, delay: number): MadeSlot {
    const count = Math.max(this.options.frames, 1);
    const plan = given.fidelity === 'baked' && count > 1 ? { ...given, fidelity: 'flipbook' as const } : given;
    const { slot, picture } = plan;
    const { columns, rows } = gridFor(count);
    const bleed = count === 1 ? 0 : BLEED;
    const side = Math.min(this.options.size, Math.floor(SHEET_SIDE / Math.max(columns, rows)) - 2 * bleed);
    const baked = this.#baked(plan, [side, side], count);
    const strength = slot === 'emissive' ? Math.max(1, ...baked.most) : 1;
    const scales = picture.map(() => strength);
    const isCut = slot === 'baseColor' && baked.most.slice(0, 3).some(isOver);
    const factors = { keys: [{ time: 0, value: picture.map(() => 1) }], error: 0 };
    const texture = this.#texture(plan, baked, scales);
    const value = { texture, factors, strength };
    if (count === 1) return this.#made(plan, value, isCut ? [reasons.colorClamped] : []);
    const motion = { keys: this.#steps(count, side, delay), error: 0, isStepped: true };
    const sheet: GltfTexture = { ...texture, wrap: ['clamp', 'clamp'], filter: 'linear', hasMipmaps: false, motion };
    const note = reasons.framesSideBySide(outputsOf(plan));
    const small = reasons.framesSmaller(outputsOf(plan), side);
    const notes = [...(isCut ? [reasons.colorClamped] : []), note, ...(side < this.options.size ? [small] : [])];
    return this.#made(plan, { ...value, texture: sheet }, notes, count);
  }

  #made(plan: SlotPlan, value: GltfSlotValue, notes: readonly string[] = [], frames = 1): MadeSlot {
    return { plan, value, notes, frames };
  }

  /** Where the frames of a sheet lie, from when on each is shown. */
  #steps(count: number, side: number, delay: number): TransformKey[] {
    const { seconds } = this.loop;
    const { columns, rows } = gridFor(count);
    const cell = side + 2 * BLEED;
    const [width, height] = [columns * cell, rows * cell];
    const steps = Array.from({ length: count }, (_, i) => ({
      time: ((((i * seconds) / count + delay) % seconds) + seconds) % seconds,
      transform: {
        offset: [((i % columns) * cell + BLEED) / width, (Math.floor(i / columns) * cell + BLEED) / height] as const,
        rotation: 0,
        scale: [side / width, side / height] as const,
      },
    })).sort((one, two) => one.time - two.time);
    // What is shown last is shown from the start on as well, and to the end.
    const last = steps.at(-1)!;
    return [...(steps[0]!.time > 0 ? [{ ...last, time: 0 }] : []), ...steps, { ...last, time: seconds }];
  }

  /** Images that are read as they are keep their size. */
  #sizeOf(picture: readonly Node[]): readonly [number, number] {
    if (picture.every((node) => node.frequency !== 'pixel')) return [1, 1];
    const image = imageOf(picture);
    const pixels = image && this.images(image);
    if (!pixels) return [this.options.size, this.options.size];
    const by = Math.min(1, IMAGE_SIDE / Math.max(pixels.width, pixels.height));
    return [Math.max(1, Math.round(pixels.width * by)), Math.max(1, Math.round(pixels.height * by))];
  }

  #texture({ slot, picture, tiles }: SlotPlan, baked: Baked, scales: readonly number[]): GltfTexture {
    const image = imageOf(picture);
    return {
      picture: baked.stored(slot, scales),
      wrap: image ? [image.wrap, image.wrap] : [tiles[0] ? 'repeat' : 'clamp', tiles[1] ? 'repeat' : 'clamp'],
      filter: image?.filter ?? 'linear',
      hasMipmaps: true,
      motion: undefined,
    };
  }

  /** Components over the square, at so many moments of the loop. */
  #baked({ picture }: SlotPlan, [width, height]: readonly [number, number], count: number): Baked {
    const key = [width, height, count, ...picture.map((node) => node.id)].join();
    const known = this.#pictures.get(key);
    if (known) return known;
    const evaluator = rowsOf(picture, this.images, { width, rows: height, frames: count });
    const frames = Array.from({ length: count }, (_, i) => {
      evaluator.setFrame({ time: (this.loop.seconds * i) / count, dials: this.values.dials });
      return { planes: evaluator.picture(width, height), width, height };
    });
    const made = new Baked(
      frames,
      picture.every((node) => node.frequency !== 'pixel'),
    );
    this.#pictures.set(key, made);
    return made;
  }
}

const NO_SCALES = [1, 1, 1] as const;
const STILL: ValueKeys = { keys: [{ time: 0, value: [] }], error: 0 };

const outputsOf = ({ outputs }: SlotPlan): string => outputs.map((o) => `'${o}'`).join(' and ');

function gridFor(count: number): { readonly columns: number; readonly rows: number } {
  const columns = count === 1 ? 1 : columnsFor(count);
  return { columns, rows: Math.ceil(count / columns) };
}

/** The image of which all components are read where they lie; undefined where there is another way, or a second one. */
function imageOf(picture: readonly Node[]): ImageSlot | undefined {
  const reads = inOrder(picture).filter((n) => n.kind === 'sample');
  const [first] = reads;
  if (first?.kind !== 'sample' || reads.some((n) => n.payload !== first.payload)) return undefined;
  const isRead = (node: Node): boolean =>
    node.frequency !== 'pixel' ||
    (node.kind === 'swizzle' && node.args[0]!.kind === 'sample' && node.args[0].args[0]!.kind === 'input');
  return picture.every(isRead) ? first.payload : undefined;
}

/** Components over the square at a moment, one number a pixel. */
interface Planes {
  readonly planes: readonly Float32Array[];
  readonly width: number;
  readonly height: number;
}

/** Frames of components, and the pictures that are stored of them. */
class Baked {
  /** By component, of all frames. */
  readonly most: readonly number[];
  readonly least: readonly number[];
  readonly #stored = new Map<string, GltfPicture>();

  constructor(
    readonly frames: readonly Planes[],
    /** The same all over the square. */
    readonly isFlat: boolean,
  ) {
    const all = frames[0]!.planes.map((_, i) => frames.map((f) => rangeOf(f.planes[i]!)));
    this.most = all.map((ranges) => Math.max(...ranges.map(([, most]) => most)));
    this.least = all.map((ranges) => Math.min(...ranges.map(([least]) => least)));
  }

  /** What is stored for a slot, each component divided by its scale: one frame, or a sheet of them. */
  stored(slot: GltfSlot, scales: readonly number[]): GltfPicture {
    const key = [slot, ...scales].join();
    let picture = this.#stored.get(key);
    if (!picture) this.#stored.set(key, (picture = this.#store(slot, scales)));
    return picture;
  }

  #store(slot: GltfSlot, scales: readonly number[]): GltfPicture {
    const isColor = COLORS.has(slot);
    const [{ width, height }] = this.frames as [Planes];
    const pixels = this.frames.map((frame) => pixelsOf(slot, frame, scales));
    if (pixels.length === 1) return { width, height, data: pixels[0]!, isColor };
    const { columns, rows } = gridFor(pixels.length);
    const [cellWidth, cellHeight] = [width + 2 * BLEED, height + 2 * BLEED];
    const data = new Uint8Array(columns * cellWidth * rows * cellHeight * 4);
    const inside = (v: number, side: number): number => Math.min(Math.max(v - BLEED, 0), side - 1);
    pixels.forEach((own, i) => {
      const [left, top] = [(i % columns) * cellWidth, Math.floor(i / columns) * cellHeight];
      for (let y = 0; y < cellHeight; y++)
        for (let x = 0; x < cellWidth; x++) {
          const from = (inside(y, height) * width + inside(x, width)) * 4;
          data.set(own.subarray(from, from + 4), ((top + y) * columns * cellWidth + left + x) * 4);
        }
    });
    return { width: columns * cellWidth, height: rows * cellHeight, data, isColor };
  }
}

function rangeOf(plane: Float32Array): [least: number, most: number] {
  let [least, most] = [Infinity, -Infinity];
  for (const v of plane) {
    if (v < least) least = v;
    if (v > most) most = v;
  }
  return [least, most];
}

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
    const stored =
      slot === 'normal'
        ? (v: number): number => Math.round(255 * clamped(v * 0.5 + 0.5))
        : isColor && channel < 3
          ? (v: number): number => srgbByte(v / scale)
          : (v: number): number => Math.round(255 * clamped(v / scale));
    for (let p = 0; p < width * height; p++) data[p * 4 + channel] = stored(plane[p]!);
  });
  return data;
}
