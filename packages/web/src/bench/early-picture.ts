import { check, parse } from '@estela/core';
import type { Material, Source } from '../api/client.ts';
import type { Clock } from '../material/clock-store.ts';
import { clockOf, type CompiledMaterial } from '../material/compiled-material.ts';
import { derive } from '../material/look.ts';
import { createScene } from '../material/scene-store.ts';
import { sourcesOf } from '../project/sources-store.ts';
import { supplyOf } from '../project/supply.ts';
import { StageController } from '../viewport/stage-controller.ts';
import { stageRect } from './stage/stage-rect.ts';

interface EarlyPicture {
  controller?: StageController;
  /** Undefined until its text is there. */
  material?: Material;
  compiled?: CompiledMaterial;
}

let early: EarlyPicture | undefined;

/**
 * Shows a material where the Stage will lie, before the page around it is there; the Stage takes canvas and shader over.
 * Resolves once the picture stands, or is not to be had.
 */
export async function drawEarly(
  canvas: HTMLCanvasElement,
  asked: Promise<Material | undefined>,
  sources: Promise<readonly Source[] | undefined>,
): Promise<void> {
  const rectangle = Object.entries(stageRect()).map(([side, at]) => `${side}: ${String(at)}px`);
  canvas.setAttribute('aria-hidden', 'true');
  canvas.style.cssText = ['position: fixed', 'visibility: hidden', ...rectangle].join(';');
  document.body.append(canvas);
  const picture: EarlyPicture = {};
  const supply = supplyOf(() => (picture.material ? sourcesOf(picture.material.projectId).getState().sources : []));
  const clock = clockOf({ seconds: 4, fps: 30 });
  let end = (): void => undefined;
  const drawn = new Promise<void>((resolve) => (end = resolve));
  const controller: StageController = new StageController(
    canvas,
    clock,
    supply,
    {
      failed(log) {
        if (log !== undefined) end();
      },
      lost: () => {
        end();
      },
      drawn: () => undefined,
      pictured() {
        if (controller.loading) return;
        canvas.style.visibility = 'visible';
        end();
      },
    },
    () => undefined,
  );
  picture.controller = controller;
  early = picture;
  const material = await asked;
  if (!material || controller.disposed) return;
  const { text } = material;
  // Read in one task, compiled in the next: neither holds the page up for long.
  const program = check(parse(text));
  await new Promise((resolve) => setTimeout(resolve));
  const derived = derive(text, undefined, program);
  clock.setLoop(program.loop.seconds, program.loop.fps);
  const compiled: CompiledMaterial = { derived, clock, scene: createScene() };
  Object.assign(picture, { material, compiled });
  const { ok, look } = compiled.derived;
  if (!ok || look.glsl.outputs.length === 0) return;
  if (look.glsl.samplers.length > 0) sourcesOf(material.projectId, await sources);
  controller.setLook(look);
  await drawn;
}

/** What was compiled early of a material, if it is this text still; else the picture is another, and goes. */
export function compiledEarly({ id, text }: Material): CompiledMaterial | undefined {
  if (early?.material?.id === id && early.material.text === text) return early.compiled;
  dropEarly();
  return undefined;
}

/** What draws with a clock already. */
export const drawsEarly = (clock: Clock): StageController | undefined =>
  early?.compiled?.clock === clock ? early.controller : undefined;

/** Takes away a picture that no Stage has taken over. */
export function dropEarly(): void {
  const { controller } = early ?? {};
  if (controller?.canvas.parentElement !== document.body) return;
  controller.dispose();
  controller.canvas.remove();
  early = undefined;
}
