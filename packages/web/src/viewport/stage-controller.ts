import type { Drawable } from '../material/look.ts';
import type { Clock } from '../material/clock-store.ts';
import type { Scene } from '../material/lighting.ts';
import { contextOf } from '../gl/context.ts';
import { Fence } from '../gl/fence.ts';
import { Programs } from '../gl/programs.ts';
import { Renderer } from '../gl/renderer.ts';
import type { CostWatch } from './cost-watch.ts';
import { FILL } from './flat-view.ts';
import { LookSlot, moves } from './look-slot.ts';
import { FramePace, FULL, type Quality } from './pace.ts';
import { drawCompared, type Camera, type StageFrame, type StageView } from './stage-frame.ts';
import type { StageEvents } from './stage-events.ts';
import { modelsOf, StageItems, type StageItem } from './stage-items.ts';
import { Textures, type TextureSupply } from '../gl/textures.ts';

/** Milliseconds between two pictures while something else must not be held up. */
const SELDOM = 150;

/**
 * Draws materials into one canvas: every frame while time goes on and something moves with it, else once after a
 * change.
 * New shaders are made beside the running ones and swapped in when they are ready.
 */
export class StageController {
  #gl: WebGL2RenderingContext | undefined;
  #renderer: Renderer | undefined;
  #textures: Textures | undefined;
  #programs: Programs | undefined;
  #items: StageItems | undefined;
  #cost: CostWatch | undefined;
  readonly #main = new LookSlot();
  /** What stands at the right of the wipe. */
  readonly #beside = new LookSlot();
  #wipe = 0.5;
  #view: StageView = { kind: 'flat', repeat: 1 };
  #scene: Scene = { environment: 'studio', backdrop: 'plain', exposure: 0 };
  /** Seconds that have gone by while playing. */
  #elapsed = 0;
  #frame = 0;
  #dirty = true;
  #before = 0;
  #drawnAt = 0;
  readonly #pace = new FramePace();
  #told: readonly [scale: number, milliseconds: number | undefined] = [1, undefined];
  /** A pointer is down: what is redrawn follows a hand. */
  #pressed = false;
  /** A picture under the hand that the graphics card still works at. */
  #fence: Fence | undefined;
  /** The picture that stands is not the best. */
  #coarse = false;
  readonly #stopListening: (() => void)[] = [];
  readonly #timers = new Set<ReturnType<typeof setTimeout>>();

  /** What the driver said last, and whether the context is away: told anew to whoever takes over. */
  #failure: string | undefined;
  #lost = false;
  #disposed = false;
  #events: StageEvents;

  constructor(
    readonly canvas: HTMLCanvasElement,
    readonly clock: Clock,
    public sources: TextureSupply,
    events: StageEvents,
    public camera: Camera,
    /** Share of the shorter side that the UV square takes in the flat view. */
    readonly fill = FILL,
  ) {
    this.#events = events;
    const lost = (event: Event): void => {
      event.preventDefault();
      this.#forget();
      this.#lost = true;
      this.#events.lost(true);
    };
    const restored = (): void => {
      this.#start();
      this.#lost = false;
      this.#events.lost(false);
    };
    canvas.addEventListener('webglcontextlost', lost);
    canvas.addEventListener('webglcontextrestored', restored);
    const resize = new ResizeObserver(() => {
      this.redraw();
    });
    resize.observe(canvas);
    const press = (event: PointerEvent): void => {
      this.#pressed = event.type === 'pointerdown';
      if (!this.#pressed && this.#coarse) this.redraw();
    };
    const presses = ['pointerdown', 'pointerup', 'pointercancel'] as const;
    for (const type of presses) window.addEventListener(type, press, true);
    this.#stopListening.push(
      () => {
        for (const type of presses) window.removeEventListener(type, press, true);
      },
      () => {
        canvas.removeEventListener('webglcontextlost', lost);
      },
      () => {
        canvas.removeEventListener('webglcontextrestored', restored);
      },
      () => {
        resize.disconnect();
      },
      clock.subscribe((state, before) => {
        if (this.#moves || state.playing !== before.playing) this.#dirty = true;
        this.#ask();
      }),
    );
    this.#later(() => {
      if (!this.#gl) this.#start();
    });
  }

  /** In a task of its own: getting a context, and asking it the first questions, each may hold the page up. */
  #later(act: () => void): void {
    const timer = setTimeout(() => {
      this.#timers.delete(timer);
      act();
    });
    this.#timers.add(timer);
  }

  #start(): void {
    const gl = contextOf(this.canvas);
    if (!gl) {
      this.#fail('This browser has no WebGL 2, which the Stage needs.');
      return;
    }
    this.#later(() => {
      this.begin(gl);
    });
  }

  /** Draws with a context of the canvas; at once, where that was made and asked its first questions before. */
  begin(gl: WebGL2RenderingContext): void {
    if (gl.isContextLost()) return;
    this.#gl = gl;
    this.#renderer = new Renderer(gl);
    this.#programs = new Programs(gl);
    this.#textures = new Textures(gl, this.sources, () => {
      this.redraw();
    });
    this.#setLooks();
    void this.#place();
    void this.#timeCost();
    this.#dirty = true;
    this.#look();
  }

  /** For whoever asks, times the material that is shown. */
  async #timeCost(): Promise<void> {
    const gl = this.#gl;
    if (!gl || !this.#events.timed) return;
    const [{ CardTimer }, { CostWatch }] = await Promise.all([
      import('../gl/card-timer.ts'),
      import('./cost-watch.ts'),
    ]);
    if (gl !== this.#gl || !this.#programs || !this.#renderer || !this.#textures) return;
    const card = CardTimer.of(gl);
    if (card)
      this.#cost ??= new CostWatch(card, this.#programs, this.#renderer, this.#textures, (milliseconds) =>
        this.#events.timed?.(milliseconds),
      );
    this.#events.timed(this.#cost ? this.#cost.milliseconds : null);
    this.#cost?.watch(this.#main.look);
  }

  #fail(log: string | undefined): void {
    this.#failure = log;
    this.#events.failed(log);
  }

  /** Another listens to what goes on, holds the camera and gives the pixels; it is told how things stand. */
  takeOver(events: StageEvents, camera: Camera, sources: TextureSupply): void {
    this.#events = events;
    this.camera = camera;
    this.sources = sources;
    if (this.#textures) this.#textures.supply = sources;
    this.#told = [1, undefined];
    events.failed(this.#failure);
    events.lost(this.#lost);
    void this.#timeCost();
    this.redraw();
  }

  /** Drops everything that lived in a lost context. */
  #forget(): void {
    this.#gl = this.#renderer = this.#textures = this.#items = this.#programs = this.#fence = this.#cost = undefined;
    this.#main.forget();
    this.#beside.forget();
  }

  /** Shows a material; with `beside`, another at the right of the share `wipe` of the width. */
  setLook(look: Drawable | undefined, beside?: Drawable, wipe = 0.5): void {
    this.#main.look = look;
    this.#beside.look = beside;
    this.#wipe = wipe;
    this.#setLooks();
    this.redraw();
  }

  #setLooks(): void {
    if (!this.#programs) return;
    for (const slot of [this.#main, this.#beside]) slot.set(this.#programs, slot.look, this.#view.kind);
    this.#cost?.watch(this.#main.look);
  }

  setView(view: StageView): void {
    const kindChanged = view.kind !== this.#view.kind;
    this.#view = view;
    if (kindChanged) this.#setLooks();
    void this.#place();
    this.redraw();
  }

  setScene(scene: Scene): void {
    this.#scene = scene;
    this.redraw();
  }

  /**
   * Seconds that have gone by while playing: the time of what turns, and of materials other than the one that is shown.
   */
  get elapsed(): number {
    return this.#elapsed;
  }

  /** What stands on the Stage, with its copies, for picking; overlays and marks are not there to be picked. */
  get placed(): readonly { readonly item: StageItem; readonly models: ReturnType<typeof modelsOf> }[] {
    return this.#view.kind === 'mesh'
      ? this.#view.items
          .filter((i) => !i.overlay && !i.mark)
          .map((item) => ({ item, models: modelsOf(item, this.#elapsed) }))
      : [];
  }

  /** Whether sources are on their way that the picture is made of. */
  get loading(): boolean {
    return this.#textures?.loading === true;
  }

  /** How many shader programs are held. */
  get programs(): number {
    return this.#programs?.size ?? 0;
  }

  get #moves(): boolean {
    const shown = [
      this.#main.look,
      this.#beside.look,
      ...(this.#view.kind === 'mesh' ? (this.#items?.looks ?? []) : []),
    ];
    return shown.some((look) => look && moves(look)) || (this.#view.kind === 'mesh' && this.#items?.turns === true);
  }

  async #place(): Promise<void> {
    const gl = this.#gl;
    const view = this.#view;
    if (view.kind !== 'mesh' || !gl) return;
    const { GpuMesh } = await import('../gl/meshes.ts');
    if (gl !== this.#gl || view !== this.#view || !this.#programs) return;
    this.#items ??= new StageItems(
      (mesh) => new GpuMesh(gl, mesh),
      this.#programs,
      () => {
        this.redraw();
      },
    );
    this.#items.set(view.items);
    this.redraw();
  }

  redraw(): void {
    this.#dirty = true;
    this.#ask();
  }

  #ask(): void {
    if (this.#frame === 0 && !this.#disposed)
      this.#frame = requestAnimationFrame((now) => {
        this.#tick(now);
      });
  }

  /** Draws as soon as there is something to draw: the first picture does not wait for the browser's next frame. */
  #look(): void {
    this.#later(() => {
      this.#tick(performance.now());
      if (this.#drawnAt === 0 && this.#waiting) this.#look();
    });
  }

  get #waiting(): boolean {
    return this.#main.waiting || this.#beside.waiting || this.#items?.waiting === true;
  }

  #tick(now: number): void {
    cancelAnimationFrame(this.#frame);
    this.#frame = 0;
    const { playing, speed } = this.clock.getState();
    const passed = this.#before === 0 ? 0 : now - this.#before;
    // Below a tenth of a second away, time goes on as if the page had not been watched.
    const seconds = Math.min(passed, 100) / 1000;
    if (playing) {
      this.#elapsed += seconds * speed;
      this.clock.advance(seconds);
    }
    let milliseconds = playing && this.#moves ? this.#told[1] : undefined;
    if (playing && passed > 0 && this.#moves && this.#events.busy?.() !== true)
      milliseconds = this.#pace.frame(passed, now) ?? milliseconds;
    const waiting = this.#waiting;
    this.#before = playing || waiting ? now : 0;
    if (waiting) this.#swapWhenReady();
    // While a hand drags, one picture is finished before the next is begun, and one that takes long asks for coarser
    // ones just as a slow frame does.
    const took = this.#fence?.took;
    if (took !== undefined) {
      this.#fence = undefined;
      this.#pace.frame(took, now);
    }
    const waits = this.#fence !== undefined || (now - this.#drawnAt < SELDOM && this.#events.busy?.() === true);
    if (this.#dirty && !waits) {
      const plays = playing && this.#moves;
      const quality = plays || this.#pressed ? this.#pace.quality : FULL;
      if (this.#draw(quality)) {
        this.#coarse = quality !== FULL;
        this.#dirty = false;
        this.#drawnAt = now;
        if (this.#pressed && !plays && this.#gl) this.#fence = new Fence(this.#gl);
        this.#tell(quality.scale, milliseconds);
        this.#events.pictured?.();
      }
    } else if (milliseconds === undefined) this.#tell(this.#told[0], undefined);
    if (playing || waits || this.#fence || this.#waiting) this.#ask();
  }

  #tell(scale: number, milliseconds: number | undefined): void {
    if (scale === this.#told[0] && milliseconds === this.#told[1]) return;
    this.#told = [scale, milliseconds];
    this.#events.drawn(scale, milliseconds);
  }

  #swapWhenReady(): void {
    for (const slot of [this.#main, this.#beside]) {
      const done = slot.swap();
      if (!done) continue;
      if (slot === this.#main || done.failure !== undefined) this.#fail(done.failure);
      this.#dirty = true;
    }
    if (this.#items?.swap() === true) this.#dirty = true;
  }

  #draw({ scale, samples }: Quality): boolean {
    const { canvas } = this;
    const density = scale * Math.min(devicePixelRatio, 2);
    if (!this.#gl || !this.#renderer || !this.#textures || canvas.clientWidth === 0) return false;
    const main = this.#main.shown;
    if (!main && (this.#view.kind === 'flat' || this.#main.look)) return false;
    const [width, height] = [
      Math.max(1, Math.round(canvas.clientWidth * density)),
      Math.max(1, Math.round(canvas.clientHeight * density)),
    ];
    if (canvas.width !== width || canvas.height !== height) [canvas.width, canvas.height] = [width, height];
    const frame: StageFrame = {
      renderer: this.#renderer,
      textures: this.#textures,
      items: this.#items,
      view: this.#view,
      scene: this.#scene,
      camera: this.camera,
      fill: this.fill,
      time: this.clock.getState().time,
      elapsed: this.#elapsed,
      size: { width, height, samples },
    };
    return drawCompared(this.#gl, frame, main, this.#beside.shown, this.#wipe);
  }

  /** Whether it has let go of its canvas. */
  get disposed(): boolean {
    return this.#disposed;
  }

  dispose(): void {
    this.#disposed = true;
    cancelAnimationFrame(this.#frame);
    for (const stop of this.#stopListening) stop();
    for (const timer of this.#timers) clearTimeout(timer);
    this.#main.dispose();
    this.#beside.dispose();
    this.#items?.dispose();
    this.#cost?.dispose();
    this.#textures?.dispose();
    this.#forget();
  }
}
