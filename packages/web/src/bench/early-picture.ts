import type { Material, Source } from '../api/client.ts';
import type { Clock } from '../material/clock-store.ts';
import { clockOf, compileMaterial, type CompiledMaterial } from '../material/compiled-material.ts';
import { sourcesOf } from '../project/sources-store.ts';
import { supplyOf } from '../project/supply.ts';
import { StageController, type StageEvents } from '../viewport/stage-controller.ts';
import { stagePlace } from './stage/stage-place.ts';

interface EarlyPicture {
  readonly controller: StageController;
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
  const place = Object.entries(stagePlace()).map(([side, at]) => `${side}: ${String(at)}px`);
  canvas.setAttribute('aria-hidden', 'true');
  canvas.style.cssText = ['position: fixed', 'visibility: hidden', ...place].join(';');
  document.body.append(canvas);
  let project: string | undefined;
  const supply = supplyOf(() => (project === undefined ? [] : sourcesOf(project).getState().sources));
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
  const picture: EarlyPicture = { controller };
  early = picture;
  const material = await asked;
  if (!material) return;
  const compiled = compileMaterial(material.text, clock);
  Object.assign(picture, { material, compiled });
  const { ok, look } = compiled.derived;
  if (!ok || look.glsl.outputs.length === 0) return;
  if (look.glsl.samplers.length > 0) sourcesOf(material.projectId, await sources);
  project = material.projectId;
  controller.setLook(look);
  await drawn;
}

/** What was compiled early of a material, if it is this text still. */
export const compiledEarly = ({ id, text }: Material): CompiledMaterial | undefined =>
  early?.material?.id === id && early.material.text === text ? early.compiled : undefined;

/** What draws with a clock already. */
export const drawsEarly = (clock: Clock): StageController | undefined =>
  early?.compiled?.clock === clock ? early.controller : undefined;

/** Takes away a picture that no Stage has taken over. */
export function dropEarly(): void {
  if (early?.controller.canvas.parentElement !== document.body) return;
  early.controller.dispose();
  early.controller.canvas.remove();
  early = undefined;
}
