import { gridOf, IDENTITY, instancesOf, type Matrix, type MeshData, type Placing } from '@estela/core';
import type { GpuMesh } from '../gl/meshes.ts';
import type { Programs } from '../gl/programs.ts';
import type { Drawn } from '../gl/renderer.ts';
import type { Drawable } from '../material/look.ts';
import { LookSlot } from './look-slot.ts';

/** A mesh on the Stage. */
export interface StageItem {
  readonly key: string;
  readonly mesh: MeshData;
  /** Its own material; left out for the one that the Stage shows, at the clock's time. */
  readonly look?: Drawable;
  /** It goes by the clock, as the material that the Stage shows does, not by the time that has gone by. */
  readonly onClock?: boolean;
  readonly placing?: Placing;
  /** Seconds that a turn about its upright takes; 0 for none. */
  readonly turning?: number;
  /** Seconds that each copy is behind the last. */
  readonly delay?: number;
  readonly overlay?: boolean;
  /** A mark on what stands there: drawn over it, seen through nothing, and not to be picked. */
  readonly mark?: boolean;
}

type Upload = (mesh: MeshData) => GpuMesh;

/** Milliseconds that UVs rest before tangents follow them. */
const REST = 150;

/** The view itself as a mesh, for overlays. */
const VIEW = gridOf((u, v) => [u * 2 - 1, 1 - v * 2, 0], 1, 1);

/** The meshes on a Stage in one context: their buffers, and a shader each for those with a material of their own. */
export class StageItems {
  #items: readonly StageItem[] = [];
  readonly #slots = new Map<string, LookSlot>();
  readonly #buffers = new Map<MeshData, GpuMesh>();
  #resting: ReturnType<typeof setTimeout> | undefined;

  constructor(
    readonly upload: Upload,
    readonly programs: Programs,
    /** Called when something that was put off is to be drawn. */
    readonly changed: () => void,
  ) {}

  /** Takes over what stands there; buffers and shaders of what stays are kept. */
  set(items: readonly StageItem[]): void {
    this.#items = items;
    const wanted = new Set(items.map((i) => (i.overlay ? VIEW : i.mesh)));
    for (const [data, buffer] of this.#buffers) {
      if (wanted.has(data)) continue;
      this.#buffers.delete(data);
      const next = [...wanted].find((mesh) => !this.#buffers.has(mesh) && buffer.isFormOf(mesh));
      if (next) this.#lay(buffer, next);
      else buffer.dispose();
    }
    for (const [key, slot] of this.#slots)
      if (!items.some((i) => i.key === key && i.look)) {
        slot.dispose();
        this.#slots.delete(key);
      }
    for (const { key, look } of items) {
      if (!look) continue;
      let slot = this.#slots.get(key);
      if (!slot) this.#slots.set(key, (slot = new LookSlot()));
      slot.set(this.programs, look, 'mesh');
    }
  }

  /** The same form with other UVs keeps its buffers. */
  #lay(buffer: GpuMesh, mesh: MeshData): void {
    this.#buffers.set(mesh, buffer);
    buffer.updateUvs(mesh);
    buffer.unsettled = true;
    clearTimeout(this.#resting);
    this.#resting = setTimeout(() => {
      for (const held of this.#buffers.values()) held.unsettled = false;
      this.changed();
    }, REST);
  }

  get waiting(): boolean {
    return [...this.#slots.values()].some((s) => s.waiting);
  }

  /** Takes over shaders that are ready; true where one was. */
  swap(): boolean {
    let swapped = false;
    for (const slot of this.#slots.values()) swapped = slot.swap() !== undefined || swapped;
    return swapped;
  }

  /** Whether any of them turns. */
  get turns(): boolean {
    return this.#items.some((i) => i.turning);
  }

  get looks(): readonly Drawable[] {
    return this.#items.flatMap((i) => i.look ?? []);
  }

  /**
   * All of them, with copies, at a moment: those without a material of their own show `own` at `time`, the others the
   * time that has gone by.
   */
  drawn(own: LookSlot['shown'], time: number, elapsed: number): Drawn[] {
    return this.#items.flatMap((item) => {
      const shown = item.look ? this.#slots.get(item.key)?.shown : own;
      if (!shown) return [];
      const { program, look } = shown;
      const { surface, loop } = look.program;
      const mesh = this.#buffer(item.overlay ? VIEW : item.mesh);
      return modelsOf(item, elapsed).map((model, copy): Drawn => {
        const at = (item.look && !item.onClock ? elapsed : time) - copy * (item.delay ?? 0);
        const moment = { time: at - Math.floor(at / loop.seconds) * loop.seconds, dials: look.values.dials };
        return {
          program,
          glsl: look.glsl,
          surface,
          moment,
          mesh,
          model,
          overlay: item.overlay ?? false,
          mark: item.mark ?? false,
        };
      });
    });
  }

  #buffer(data: MeshData): GpuMesh {
    let buffer = this.#buffers.get(data);
    if (!buffer) this.#buffers.set(data, (buffer = this.upload(data)));
    return buffer;
  }

  dispose(): void {
    clearTimeout(this.#resting);
    this.set([]);
  }
}

/** Where the copies of an item stand after so many seconds. */
export const modelsOf = ({ placing, turning, overlay }: StageItem, elapsed: number): readonly Matrix[] =>
  placing && !overlay ? instancesOf(placing, turning ? (elapsed / turning) * 360 : 0) : [IDENTITY];
