import type { PageData } from '@estela/contract';
import type { FirstPicture } from '@estela/core';
import type { Material } from '../api/client.ts';
import { clockOf, type Clock } from '../material/clock-store.ts';

import { sourcesOf } from '../project/sources-store.ts';
import { supplyOf } from '../project/supply.ts';
import { StageController } from '../viewport/stage-controller.ts';
import { stageRect } from './stage/stage-rect.ts';

interface EarlyPicture {
  readonly controller: StageController;
  readonly material: Material;
  readonly clock: Clock;
  /** Whether time is to go on once the Bench is there. */
  readonly plays: boolean;
}

let early: EarlyPicture | undefined;

/**
 * Shows a material where the Stage will lie, before the page around it is there; the Stage takes canvas and shader over.
 * Resolves once the picture stands, or is not to be had.
 */
export function drawEarly(
  gl: WebGL2RenderingContext,
  { material, sources }: Pick<PageData, 'material' | 'sources'>,
  { surface, loop, glsl }: FirstPicture,
): Promise<void> {
  const canvas = gl.canvas as HTMLCanvasElement;
  const rectangle = Object.entries(stageRect()).map(([side, at]) => `${side}: ${String(at)}px`);
  canvas.setAttribute('aria-hidden', 'true');
  canvas.style.cssText = ['position: fixed', 'visibility: hidden', ...rectangle].join(';');
  document.body.append(canvas);
  const store = sourcesOf(material.projectId, sources);
  const clock = clockOf(loop);
  const { playing: plays } = clock.getState();
  // What is drawn stands still: its shader came with the values of one moment.
  clock.pause();
  return new Promise((resolve) => {
    const controller: StageController = new StageController(
      canvas,
      clock,
      // Another tab may replace one while the Stage, which takes this over, stands.
      supplyOf(() => store.getState().sources),
      {
        failed(log) {
          if (log !== undefined) resolve();
        },
        lost: () => {
          resolve();
        },
        drawn: () => undefined,
        pictured() {
          if (controller.loading) return;
          canvas.style.visibility = 'visible';
          resolve();
        },
      },
      () => undefined,
    );
    early = { controller, material, clock, plays };
    controller.setLook({ program: { surface, loop }, glsl, values: { dials: new Map() } });
    controller.begin(gl);
  });
}

/** The clock of what was drawn early of a material, if it is this text still; else the picture is another, and goes. */
export function clockOfEarly({ id, text }: Material): Clock | undefined {
  if (early?.material.id === id && early.material.text === text) {
    if (early.plays) early.clock.play();
    return early.clock;
  }
  dropEarly();
  return undefined;
}

/** What draws with a clock already. */
export const drawsEarly = (clock: Clock): StageController | undefined =>
  early?.clock === clock ? early.controller : undefined;

/** Takes away a picture that no Stage has taken over. */
export function dropEarly(): void {
  const { controller } = early ?? {};
  if (controller?.canvas.parentElement !== document.body) return;
  controller.dispose();
  controller.canvas.remove();
  early = undefined;
}
