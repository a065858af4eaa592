import type { ImageSlot } from '../../ir/node.ts';
import type { TransformKeys, ValueKeys } from './keys.ts';
import type { GltfNumber, GltfSlot, SlotFidelity } from './slots.ts';

/** How a material is written as glTF. */
export interface GltfOptions {
  /** Pixels along a side of what is baked, or of one frame where it is a flipbook. */
  readonly size: number;
  /** Frames of what changes in itself; 0 bakes its first moment. */
  readonly frames: number;
}
export const GLTF_SIZES = [64, 128, 256, 512, 1024, 2048] as const;
/** What textures of a glTF file are stored as. */
export const GLTF_IMAGES = ['png', 'jpeg', 'webp'] as const;
export type GltfImageType = (typeof GLTF_IMAGES)[number];
/** Most frames of a flipbook. */
export const GLTF_FRAME_LIMIT = 256;
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
  readonly hasMipmaps: boolean;
  /** Where it is read from as time goes on; where `isStepped` it jumps from key to key. */
  readonly motion: (TransformKeys & { readonly isStepped: boolean }) | undefined;
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

/** What is told of one material of a file. */
export interface MaterialReport extends GltfReport {
  readonly material: string;
  /** Of a variant, its name. */
  readonly variant?: string;
}
/** What a GLB says of what is in it, and what it cannot say: as it stands in `asset.extras.estela`. */
export interface GlbReport {
  readonly materials: readonly MaterialReport[];
  readonly notes: readonly string[];
}
