import type { Look } from '../look.ts';
import type { Clock } from '../clock-store.ts';
import { MaterialProgram } from '../../gl/material-program.ts';
import type { GpuMesh, MeshName } from '../../gl/meshes.ts';
import { Renderer, type CameraView, type FlatView } from '../../gl/renderer.ts';
import { Textures, type TextureSupply } from '../../gl/textures.ts';

export type StageView = { readonly kind: 'flat'; readonly repeat: number } | { readonly kind: 'mesh'; readonly mesh: MeshName };

export interface StageEvents {
  /** The driver refused a shader, or accepts again. */
  readonly failed: (log: string | undefined) => void;
  readonly lost: (lost: boolean) => void;
  /** A picture was drawn; at which share of full resolution. */
  readonly drawn: (scale: number) => void;
}

/** The camera for a width over height; undefined while it is still loading. */
export type Camera = (aspect: number) => CameraView | undefined;

const SCALES = [1, 0.75, 0.5, 0.35] as const;
/** Frames slower than this, in ms, ask for fewer pixels; faster than the second, for more. */
const SLOW = 45;
const QUICK = 20;

/**
 * Draws a material into one canvas: while time goes on every frame, else once after a change.
 * New shaders are made beside the running one and swapped in when they are ready.
 */
export class StageController {
  #gl: WebGL2RenderingContext | undefined;
  #renderer: Renderer | undefined;
  #textures: Textures | undefined;
  #live: MaterialProgram | undefined;
  #liveLook: Look | undefined;
  #next: { program: MaterialProgram; look: Look } | undefined;
  #look: Look | undefined;
  #view: StageView = { kind: 'flat', repeat: 1 };
  #mesh: { name: MeshName; mesh: GpuMesh } | undefined;
  #frame = 0;
  #dirty = true;
  #before = 0;
  #scale = 0;
  #slowFrames = 0;
  #quickFrames = 0;
  readonly #stopListening: (() => void)[] = [];

  constructor(
    readonly canvas: HTMLCanvasElement,
    readonly clock: Clock,
    readonly sources: TextureSupply,
    readonly events: StageEvents,
    readonly camera: Camera,
    /** Share of the shorter side that the UV square takes in the flat view. */
    readonly fill = 0.94,
  ) {
    const lost = (event: Event): void => {
      event.preventDefault();
      this.#forget();
      this.events.lost(true);
    };
    const restored = (): void => {
      this.#start();
      this.events.lost(false);
    };
    canvas.addEventListener('webglcontextlost', lost);
    canvas.addEventListener('webglcontextrestored', restored);
    const resize = new ResizeObserver(() => {
      this.redraw();
    });
    resize.observe(canvas);
    this.#stopListening.push(
      () => {
        canvas.removeEventListener('webglcontextlost', lost);
      },
      () => {
        canvas.removeEventListener('webglcontextrestored', restored);
      },
      () => {
        resize.disconnect();
      },
      clock.subscribe(() => {
        this.#dirty = true;
        this.#ask();
      }),
    );
    this.#start();
  }

  #start(): void {
    const gl = this.canvas.getContext('webgl2', { alpha: false, antialias: false, depth: false, powerPreference: 'high-performance' });
    if (!gl) {
      this.events.failed('This browser gives no WebGL 2, which the Stage needs.');
      return;
    }
    this.#gl = gl;
    this.#renderer = new Renderer(gl);
    this.#textures = new Textures(gl, this.sources, () => {
      this.redraw();
    });
    if (this.#look) this.setLook(this.#look);
    void this.#loadMesh();
    this.redraw();
  }

  /** Drops everything that lived in a lost context. */
  #forget(): void {
    this.#gl = this.#renderer = this.#textures = this.#live = this.#next = this.#mesh = undefined;
  }

  setLook(look: Look | undefined): void {
    this.#look = look;
    if (!look || !this.#gl) return;
    const key = MaterialProgram.keyOf(look, this.#view.kind);
    if (this.#live?.key === key) {
      this.#live.adopt(look);
      this.#liveLook = look;
      this.#next?.program.dispose();
      this.#next = undefined;
    } else if (this.#next?.program.key === key) {
      this.#next.program.adopt(look);
      this.#next.look = look;
    } else {
      this.#next?.program.dispose();
      this.#next = { program: new MaterialProgram(this.#gl, look, this.#view.kind), look };
    }
    this.redraw();
  }

  setView(view: StageView): void {
    const kindChanged = view.kind !== this.#view.kind;
    this.#view = view;
    if (kindChanged) this.setLook(this.#look);
    void this.#loadMesh();
    this.redraw();
  }

  async #loadMesh(): Promise<void> {
    const renderer = this.#renderer;
    if (this.#view.kind !== 'mesh' || !renderer) return;
    const name = this.#view.mesh;
    const mesh = await renderer.mesh(name);
    if (renderer !== this.#renderer) return;
    this.#mesh = { name, mesh };
    this.redraw();
  }

  redraw(): void {
    this.#dirty = true;
    this.#ask();
  }

  #ask(): void {
    if (this.#frame === 0)
      this.#frame = requestAnimationFrame((now) => {
        this.#tick(now);
      });
  }

  #tick(now: number): void {
    this.#frame = 0;
    const { playing } = this.clock.getState();
    const passed = this.#before === 0 ? 0 : now - this.#before;
    // Below a tenth of a second away, time goes on as if the page had not been watched.
    if (playing) this.clock.advance(Math.min(passed, 100) / 1000);
    if (playing) this.#adapt(passed);
    this.#before = playing || this.#next ? now : 0;
    if (this.#next) this.#swapWhenReady();
    if (this.#dirty && this.#draw()) this.#dirty = false;
    if (playing || this.#next) this.#ask();
  }

  #swapWhenReady(): void {
    if (!this.#next) return;
    const { program, look } = this.#next;
    if (program.ready) {
      this.#live?.dispose();
      this.#live = program;
      this.#liveLook = look;
      this.#next = undefined;
      this.#dirty = true;
      this.events.failed(undefined);
    } else if (program.failure !== undefined) {
      this.events.failed(program.failure);
      program.dispose();
      this.#next = undefined;
    }
  }

  /** Fewer pixels while frames come slowly, more once they come quickly again. */
  #adapt(passed: number): void {
    if (passed > SLOW) {
      this.#quickFrames = 0;
      if (++this.#slowFrames >= 8 && this.#scale < SCALES.length - 1) {
        this.#scale++;
        this.#slowFrames = 0;
      }
    } else {
      this.#slowFrames = 0;
      this.#quickFrames = passed < QUICK ? this.#quickFrames + 1 : 0;
      if (this.#quickFrames >= 180 && this.#scale > 0) {
        this.#scale--;
        this.#quickFrames = 0;
      }
    }
  }

  #draw(): boolean {
    const { canvas } = this;
    if (!this.#live?.ready || !this.#liveLook || !this.#renderer || !this.#textures || canvas.clientWidth === 0) return false;
    const scale = (this.clock.getState().playing ? (SCALES[this.#scale] ?? 1) : 1) * Math.min(devicePixelRatio, 2);
    const [width, height] = [Math.max(1, Math.round(canvas.clientWidth * scale)), Math.max(1, Math.round(canvas.clientHeight * scale))];
    if (canvas.width !== width || canvas.height !== height) [canvas.width, canvas.height] = [width, height];
    const moment = { time: this.clock.getState().time, dials: this.#liveLook.values.dials };
    if (this.#live.kind === 'flat') {
      this.#renderer.drawFlat(
        this.#live,
        moment,
        this.#textures,
        flatView(width, height, this.#view.kind === 'flat' ? this.#view.repeat : 1, this.fill),
        width,
        height,
      );
    } else {
      const view = this.camera(width / height);
      if (!view || !this.#mesh) return false;
      this.#renderer.drawMesh(this.#live, moment, this.#textures, this.#mesh.mesh, view, this.#liveLook.program.surface, width, height);
    }
    this.events.drawn(scale);
    return true;
  }

  dispose(): void {
    cancelAnimationFrame(this.#frame);
    for (const stop of this.#stopListening) stop();
    this.#next?.program.dispose();
    this.#live?.dispose();
    this.#textures?.dispose();
    this.#forget();
  }
}

/** The UV square in the middle of a canvas, with a margin. */
export function flatView(width: number, height: number, repeat: number, fill = 0.94): FlatView {
  const size = Math.floor(Math.min(width, height) * fill);
  return { x: Math.floor((width - size) / 2), y: Math.floor((height - size) / 2), size, repeat };
}

/** The place on the UV square under a point of the canvas, both in CSS pixels; undefined beside it. */
export function uvAt(x: number, y: number, width: number, height: number, repeat: number): [number, number] | undefined {
  const view = flatView(width, height, repeat);
  const [u, v] = [(x - view.x) / view.size, (y - view.y) / view.size];
  return u >= 0 && u < 1 && v >= 0 && v < 1 ? [(u * repeat) % 1, (v * repeat) % 1] : undefined;
}
