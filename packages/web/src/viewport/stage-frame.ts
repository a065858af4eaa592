import type { Scene } from '../material/lighting.ts';
import type { CameraView, Renderer } from '../gl/renderer.ts';
import type { Textures } from '../gl/textures.ts';
import { flatView } from './flat-view.ts';
import type { LookSlot } from './look-slot.ts';
import type { StageItem, StageItems } from './stage-items.ts';

export type StageView =
  { readonly kind: 'flat'; readonly repeat: number } | { readonly kind: 'mesh'; readonly items: readonly StageItem[] };

/** The camera for a width over height; undefined while it is still loading. */
export type Camera = (aspect: number) => CameraView | undefined;

/** One picture of the Stage: what is drawn, from where, at what time and how large. */
export interface StageFrame {
  readonly renderer: Renderer;
  readonly textures: Textures;
  /** Undefined until something was placed. */
  readonly items: StageItems | undefined;
  readonly view: StageView;
  readonly scene: Scene;
  readonly camera: Camera;
  /** Share of the shorter side that the UV square takes in the flat view. */
  readonly fill: number;
  /** Seconds of the material's loop. */
  readonly time: number;
  /** Seconds that have passed while playing. */
  readonly elapsed: number;
  /** Pixels, and samples of each. */
  readonly size: { readonly width: number; readonly height: number; readonly samples: number };
}

/** Draws a material; gives false where something it needs is not there yet. */
function drawLook(frame: StageFrame, own: LookSlot['shown']): boolean {
  const { renderer, textures, items, view, time, size } = frame;
  const { width, height } = size;
  if (view.kind === 'flat') {
    if (own?.program.kind !== 'flat') return false;
    const { program, look } = own;
    const square = flatView(width, height, view.repeat, frame.fill);
    renderer.drawFlat(program, look.glsl, { time, dials: look.values.dials }, textures, square, width, height);
    return true;
  }
  const camera = frame.camera(width / height);
  if (!camera || !items || (own && own.program.kind !== 'mesh')) return false;
  renderer.drawScene(items.drawn(own, time, frame.elapsed), textures, camera, frame.scene, size);
  return true;
}

/**
 * Draws a material, and another at the right of the share `wipe` of the width; gives false where the first cannot be
 * drawn yet.
 */
export function drawCompared(
  gl: WebGL2RenderingContext,
  frame: StageFrame,
  main: LookSlot['shown'],
  beside: LookSlot['shown'],
  wipe: number,
): boolean {
  if (!drawLook(frame, main)) return false;
  if (!beside) return true;
  const { width, height } = frame.size;
  const from = Math.round(width * wipe);
  gl.enable(gl.SCISSOR_TEST);
  gl.scissor(from, 0, width - from, height);
  drawLook(frame, beside);
  gl.disable(gl.SCISSOR_TEST);
  return true;
}
