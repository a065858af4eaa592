import { derive, type Look } from '../material/look.ts';
import { MaterialProgram } from '../gl/material-program.ts';
import { Renderer } from '../gl/renderer.ts';
import { Textures, type TextureSupply } from '../gl/textures.ts';

/** Milliseconds between two pictures drawn; cards on screen take turns. */
const PAUSE = 40;

interface Card {
  readonly canvas: HTMLCanvasElement;
  readonly look: Look;
  readonly sources: TextureSupply;
  program: MaterialProgram | undefined;
  visible: boolean;
  drawn: boolean;
}

/**
 * Plays small pictures of many materials with one graphics context: cards on screen are drawn in
 * turn and copied to their own canvas. Cards off screen cost nothing, and with reduced motion
 * each is drawn once.
 */
export class PicturePlayer {
  readonly #canvas = document.createElement('canvas');
  readonly #cards = new Map<Element, Card>();
  readonly #textures = new Map<TextureSupply, Textures>();
  readonly #still = matchMedia('(prefers-reduced-motion: reduce)');
  #gl: WebGL2RenderingContext | null = null;
  #renderer: Renderer | undefined;
  #timer: ReturnType<typeof setTimeout> | undefined;
  #turn = 0;
  readonly #observer = new IntersectionObserver((entries) => {
    for (const entry of entries) {
      const card = this.#cards.get(entry.target);
      if (card) card.visible = entry.isIntersecting;
    }
    this.#plan();
  });

  constructor(readonly kind: 'flat' | 'ball' = 'flat') {}

  /** Shows a material on a canvas from now on; gives the function that ends it. */
  show(canvas: HTMLCanvasElement, text: string, sources: TextureSupply): () => void {
    this.#cards.set(canvas, {
      canvas,
      look: derive(text).look,
      sources,
      program: undefined,
      visible: false,
      drawn: false,
    });
    canvas.setAttribute('aria-busy', 'true');
    this.#observer.observe(canvas);
    return () => {
      this.#observer.unobserve(canvas);
      this.#cards.get(canvas)?.program?.dispose();
      this.#cards.delete(canvas);
      if (this.#cards.size === 0) this.#close();
    };
  }

  #plan(): void {
    if (
      this.#timer === undefined &&
      [...this.#cards.values()].some((c) => c.visible && !(this.#still.matches && c.drawn))
    ) {
      this.#timer = setTimeout(() => {
        this.#timer = undefined;
        requestAnimationFrame(() => {
          this.#next();
          this.#plan();
        });
      }, PAUSE);
    }
  }

  #next(): void {
    const cards = [...this.#cards.values()].filter((c) => c.visible && !(this.#still.matches && c.drawn));
    const card = cards[this.#turn++ % Math.max(cards.length, 1)];
    if (!card || !this.#open()) return;
    const gl = this.#gl!;
    card.program ??= new MaterialProgram(gl, card.look, this.kind);
    if (!card.program.ready) return;
    const { width, height } = card.canvas;
    if (this.#canvas.width !== width || this.#canvas.height !== height)
      [this.#canvas.width, this.#canvas.height] = [width, height];
    let textures = this.#textures.get(card.sources);
    if (!textures)
      this.#textures.set(
        card.sources,
        (textures = new Textures(gl, card.sources, () => {
          for (const c of this.#cards.values()) c.drawn = false;
          this.#plan();
        })),
      );
    const { seconds } = card.look.program.loop;
    const time = this.#still.matches ? 0 : (performance.now() / 1000) % seconds;
    // The square fills the card's width; what is above and below is cut off evenly.
    this.#renderer?.drawFlat(
      card.program,
      card.look.glsl,
      { time, dials: card.look.values.dials },
      textures,
      { x: 0, y: Math.round((height - width) / 2), size: width, repeat: 1 },
      width,
      height,
    );
    // What stands in for sources on their way is no picture of the material.
    if (!card.drawn && card.look.glsl.samplers.length > 0 && textures.loading) return;
    card.canvas.getContext('2d')?.drawImage(this.#canvas, 0, 0);
    card.drawn = true;
    card.canvas.removeAttribute('aria-busy');
  }

  #open(): boolean {
    if (this.#gl && !this.#gl.isContextLost()) return true;
    for (const card of this.#cards.values()) card.program = undefined;
    this.#textures.clear();
    this.#gl = this.#canvas.getContext('webgl2', { alpha: false, antialias: false, depth: false });
    this.#renderer = this.#gl ? new Renderer(this.#gl) : undefined;
    return this.#gl !== null && !this.#gl.isContextLost();
  }

  #close(): void {
    clearTimeout(this.#timer);
    this.#timer = undefined;
    for (const textures of this.#textures.values()) textures.dispose();
    this.#textures.clear();
  }
}
