import { useEffect, useEffectEvent, useRef, useState, type RefObject } from 'react';
import type { TextureSupply } from '../gl/textures.ts';
import type { Clock } from '../material/clock-store.ts';
import type { Scene } from '../material/lighting.ts';
import type { Orbit } from './orbit.ts';
import { StageController } from './stage-controller.ts';
import type { StageEvents } from './stage-events.ts';
import type { Camera, StageView } from './stage-frame.ts';
import { standAt, USUAL, type PlacedView } from './use-placed.ts';

export interface ViewportOptions extends Pick<Partial<StageEvents>, 'drawn' | 'pictured' | 'busy' | 'timed'> {
  readonly clock: Clock;
  readonly supply: TextureSupply;
  readonly view: StageView;
  readonly scene?: Scene | undefined;
  /** Where meshes are seen from; what the hand made of it stays until it is another. */
  readonly stand?: PlacedView['stand'];
  /** Without a standpoint goes back to the usual one, if it was left for another. */
  readonly home?: boolean;
  /** Lets the right button move the camera aside. */
  readonly pan?: boolean;
  /** Share of the shorter side that the UV square takes in the flat view. */
  readonly fill?: number;
  /** Draws already, into the canvas that is to be shown. */
  readonly made?: StageController | undefined;
  /** Changes when the supply has other pixels. */
  readonly version?: unknown;
}

/** What materials are drawn into, and its camera. */
export interface Viewport {
  /** The element that takes the hand: an absolutely positioned one, which is filled with a canvas. */
  readonly surface: RefObject<HTMLElement | null>;
  /** Undefined until the canvas stands. */
  readonly controller: StageController | undefined;
  /** Undefined in the flat view, and until it is loaded. */
  readonly orbit: Orbit | undefined;
  /** Why there is no picture, as a sentence; undefined where there is one. */
  readonly failure: string | undefined;
}

/**
 * Keeps an element that fills its parent from whole pixel to whole pixel: panels have any size, and a canvas that lay
 * between pixels would be drawn blurred. Gives what ends it.
 */
function snapped(element: HTMLElement): () => void {
  const frame = element.parentElement;
  if (!frame || element.offsetParent !== frame) return () => undefined;
  const watch = new ResizeObserver(() => {
    const { left, top, right, bottom } = frame.getBoundingClientRect();
    const [x, y] = [Math.ceil(left), Math.ceil(top)];
    Object.assign(element.style, {
      left: `${String(x - left)}px`,
      top: `${String(y - top)}px`,
      right: 'auto',
      bottom: 'auto',
      width: `${String(Math.floor(right) - x)}px`,
      height: `${String(Math.floor(bottom) - y)}px`,
    });
  });
  watch.observe(frame);
  return () => {
    watch.disconnect();
  };
}

/** Puts a canvas into an element, which it fills. */
function put(canvas: HTMLCanvasElement, element: HTMLElement): void {
  canvas.style.cssText = 'position: absolute; inset: 0; width: 100%; height: 100%; display: block';
  element.append(canvas);
}

/** Draws into a surface, for as long as it stands; what is drawn is told to the controller. */
export function useViewport(options: ViewportOptions): Viewport {
  const { clock, supply, view, scene, stand, home = false, pan = false, fill, made, version } = options;
  const surface = useRef<HTMLElement>(null);
  const camera = useRef<Orbit>(undefined);
  const [controller, setController] = useState<StageController>();
  const [orbit, setOrbit] = useState<Orbit>();
  const [failed, setFailed] = useState<string>();
  const [lost, setLost] = useState(false);
  const drawn = useEffectEvent<StageEvents['drawn']>((...told) => options.drawn?.(...told));
  const pictured = useEffectEvent(() => options.pictured?.());
  const timed = useEffectEvent<NonNullable<StageEvents['timed']>>((milliseconds) => options.timed?.(milliseconds));
  const isTimed = options.timed !== undefined;
  const busy = useEffectEvent(() => options.busy?.() === true);
  useEffect(() => {
    const element = surface.current;
    if (!element) return undefined;
    const events: StageEvents = { failed: setFailed, lost: setLost, drawn, pictured, busy, ...(isTimed && { timed }) };
    const see: Camera = (aspect) => camera.current?.see(aspect);
    const running = made?.disposed === false;
    const canvas = running ? made.canvas : document.createElement('canvas');
    put(canvas, element);
    const unsnap = snapped(element);
    const drawing = running ? made : new StageController(canvas, clock, supply, events, see, fill);
    if (running) drawing.takeOver(events, see, supply);
    setController(drawing);
    return () => {
      unsnap();
      drawing.dispose();
      canvas.remove();
      setController(undefined);
      setFailed(undefined);
    };
  }, [made, clock, supply, fill, isTimed]);

  const onMesh = view.kind === 'mesh';
  useEffect(() => {
    const element = surface.current;
    if (!controller || !onMesh || !element) return undefined;
    let gone = false;
    void import('./orbit.ts').then(({ createOrbit }) => {
      if (gone) return;
      camera.current = createOrbit(
        element,
        () => {
          controller.redraw();
        },
        pan,
      );
      setOrbit(camera.current);
      controller.redraw();
    });
    return () => {
      gone = true;
      camera.current?.dispose();
      camera.current = undefined;
      setOrbit(undefined);
    };
  }, [controller, onMesh, pan]);

  useEffect(() => {
    controller?.setView(view);
  }, [controller, view]);
  useEffect(() => {
    if (scene) controller?.setScene(scene);
  }, [controller, scene]);
  useEffect(() => {
    controller?.redraw();
  }, [controller, version]);
  const strayed = useRef(false);
  useEffect(() => {
    if (!orbit) strayed.current = false;
    else if (stand) standAt(orbit, stand);
    else if (strayed.current && home) standAt(orbit, USUAL);
    if (stand) strayed.current = true;
  }, [orbit, stand, home]);

  const failure = lost
    ? 'The graphics context was lost; it comes back by itself.'
    : failed && `Shader failed to compile: ${failed.split('\n')[0] ?? ''}`;
  return { surface, controller, orbit, failure };
}
