import type { Look } from '../look.ts';
import type { Clock } from '../clock-store.ts';
import { shapeMesh, type MeshData, type ShapeName } from '@estela/core';
import type { Scene } from '../../gl/lighting.ts';
import type { GpuMesh } from '../../gl/meshes.ts';
import { Renderer, type CameraView, type FlatView } from '../../gl/renderer.ts';
import { LookSlot } from './look-slot.ts';
import { Textures, type TextureSupply } from '../../gl/textures.ts';

export type StageView =
  { readonly kind: 'flat'; readonly repeat: number } | { readonly kind: 'mesh'; readonly shape: ShapeName; readonly subdivisions?: number };

export interface StageEvents {
  /** The driver refused a shader, or accepts again. */
  readonly failed: (log: string | undefined) => void;
  readonly lost: (lost: boolean) => void;
  /** A picture was drawn; at which share of full resolution. */
  readonly drawn: (scale: number) => void;
  /** Something that must not be held up is going on: draw seldom. */
  readonly busy?: () => boolean;
}

/** The camera for a width over height; undefined while it is still loading. */
export type Camera = (aspect: number) => CameraView | undefined;

/** Share of the shorter side that the UV square takes in the flat view, unless told otherwise. */
export const FILL = 0.94;
const SCALES = [1, 0.75, 0.5, 0.35] as const;
/** Milliseconds between two pictures while something else must not be held up. */
const SELDOM = 150;
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
  readonly #main = new LookSlot();
  /** What stands at the right of the wipe. */
  readonly #beside = new LookSlot();
  #wipe = 0.5;
  #view: StageView = { kind: 'flat', repeat: 1 };
  #mesh: { data: MeshData; gpu: GpuMesh } | undefined;
  #scene: Scene = { environment: 'studio', backdrop: 'plain', exposure: 0 };
  #frame = 0;
  #dirty = true;
  #before = 0;
  #drawnAt = 0;
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
    readonly fill = FILL,
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
    this.#setLooks();
    void this.#loadMesh();
    this.redraw();
  }

  /** Drops everything that lived in a lost context. */
  #forget(): void {
    this.#gl = this.#renderer = this.#textures = this.#mesh = undefined;
    this.#main.forget();
    this.#beside.forget();
  }

  /** Shows a material; with `beside`, another at the right of the share `wipe` of the width. */
  setLook(look: Look | undefined, beside?: Look, wipe = 0.5): void {
    this.#main.look = look;
    this.#beside.look = beside;
    this.#wipe = wipe;
    this.#setLooks();
    this.redraw();
  }

  #setLooks(): void {
    if (!this.#gl) return;
    for (const slot of [this.#main, this.#beside]) slot.set(this.#gl, slot.look, this.#view.kind);
  }

  setView(view: StageView): void {
    const kindChanged = view.kind !== this.#view.kind;
    this.#view = view;
    if (kindChanged) this.#setLooks();
    void this.#loadMesh();
    this.redraw();
  }

  setScene(scene: Scene): void {
    this.#scene = scene;
    this.redraw();
  }

  /** The mesh that is shown, for picking. */
  get mesh(): MeshData | undefined {
    return this.#mesh?.data;
  }

  async #loadMesh(): Promise<void> {
    const gl = this.#gl;
    const view = this.#view;
    if (view.kind !== 'mesh' || !gl) return;
    const { uploadMesh } = await import('../../gl/meshes.ts');
    if (gl !== this.#gl || view !== this.#view) return;
    const data = shapeMesh(view.shape, view.subdivisions);
    const gpu = uploadMesh(gl, data);
    this.#mesh?.gpu.dispose();
    this.#mesh = { data, gpu };
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
    if (playing && this.events.busy?.() !== true) this.#adapt(passed);
    const waiting = this.#main.waiting || this.#beside.waiting;
    this.#before = playing || waiting ? now : 0;
    if (waiting) this.#swapWhenReady();
    const waits = now - this.#drawnAt < SELDOM && this.events.busy?.() === true;
    if (this.#dirty && !waits && this.#draw()) {
      this.#dirty = false;
      this.#drawnAt = now;
    }
    if (playing || waits || this.#main.waiting || this.#beside.waiting) this.#ask();
  }

  #swapWhenReady(): void {
    for (const slot of [this.#main, this.#beside]) {
      const done = slot.swap();
      if (!done) continue;
      if (slot === this.#main || done.failure !== undefined) this.events.failed(done.failure);
      this.#dirty = true;
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
    const main = this.#main.shown;
    const gl = this.#gl;
    if (!main || !gl || !this.#renderer || !this.#textures || canvas.clientWidth === 0) return false;
    const scale = (this.clock.getState().playing ? (SCALES[this.#scale] ?? 1) : 1) * Math.min(devicePixelRatio, 2);
    const [width, height] = [Math.max(1, Math.round(canvas.clientWidth * scale)), Math.max(1, Math.round(canvas.clientHeight * scale))];
    if (canvas.width !== width || canvas.height !== height) [canvas.width, canvas.height] = [width, height];
    if (!this.#drawOne(main, width, height)) return false;
    const beside = this.#beside.shown;
    if (beside) {
      const from = Math.round(width * this.#wipe);
      gl.enable(gl.SCISSOR_TEST);
      gl.scissor(from, 0, width - from, height);
      this.#drawOne(beside, width, height);
      gl.disable(gl.SCISSOR_TEST);
    }
    this.events.drawn(scale);
    return true;
  }

  #drawOne({ program, look }: NonNullable<LookSlot['shown']>, width: number, height: number): boolean {
    const moment = { time: this.clock.getState().time, dials: look.values.dials };
    if (program.kind !== 'mesh') {
      const repeat = this.#view.kind === 'flat' ? this.#view.repeat : 1;
      this.#renderer!.drawFlat(program, moment, this.#textures!, flatView(width, height, repeat, this.fill), width, height);
      return true;
    }
    const view = this.camera(width / height);
    if (!view || !this.#mesh) return false;
    this.#renderer!.drawMesh(program, moment, this.#textures!, this.#mesh.gpu, view, look.program.surface, this.#scene, width, height);
    return true;
  }

  dispose(): void {
    cancelAnimationFrame(this.#frame);
    for (const stop of this.#stopListening) stop();
    this.#main.dispose();
    this.#beside.dispose();
    this.#textures?.dispose();
    this.#forget();
  }
}

/** The UV square in the middle of a canvas, with a margin. */
export function flatView(width: number, height: number, repeat: number, fill = FILL): FlatView {
  const size = Math.floor(Math.min(width, height) * fill);
  return { x: Math.floor((width - size) / 2), y: Math.floor((height - size) / 2), size, repeat };
}

/** The place on the UV square under a point of the canvas, both in CSS pixels; undefined beside it. */
export function uvAt(x: number, y: number, width: number, height: number, repeat: number): [number, number] | undefined {
  const view = flatView(width, height, repeat);
  const [u, v] = [(x - view.x) / view.size, (y - view.y) / view.size];
  return u >= 0 && u < 1 && v >= 0 && v < 1 ? [(u * repeat) % 1, (v * repeat) % 1] : undefined;
}
