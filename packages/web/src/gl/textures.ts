import { testGrid, type ImageSlot } from '@estela/core';
import type { GlPixels } from '../material/shown.ts';

/** Where the pixels of sources come from. */
export interface TextureSupply {
  /** Which content a source has now; undefined where there is no such source. */
  readonly contentOf: (source: string) => string | undefined;
  readonly load: (source: string, color: boolean, most: number) => Promise<GlPixels>;
}

interface Loaded {
  readonly texture: WebGLTexture;
  /**
   * The content it shows, or asked for in vain; null before the first. A quiet colour stands in while it loads, and the
   * test grid where there is none.
   */
  content: string | undefined | null;
  loading: boolean;
}

/** What stands in for an image that loads, by its encoding: dark grey, the middle, and a flat normal. */
const WAITING: Record<ImageSlot['encoding'], readonly number[]> = {
  color: [56, 56, 56, 255],
  data: [128, 128, 128, 255],
  normal: [128, 128, 255, 255],
};

/** Pixels of sources on the graphics card: one texture a source and encoding, one sampler a wrap and filter. */
export class Textures {
  readonly #loaded = new Map<string, Loaded>();
  readonly #samplers = new Map<string, WebGLSampler>();
  /** 16-bit pictures are kept as floats, with mipmaps, where the card can filter them; asked for with the first. */
  #floatsKept: boolean | undefined;
  #gone = false;

  constructor(
    readonly gl: WebGL2RenderingContext,
    public supply: TextureSupply,
    /** Called when a source has arrived and pictures made without it are old. */
    readonly changed: () => void,
  ) {}

  get #floats(): boolean {
    const { gl } = this;
    return (this.#floatsKept ??=
      gl.getExtension('EXT_color_buffer_float') !== null && gl.getExtension('OES_texture_float_linear') !== null);
  }

  /** Whether anything is on its way. */
  get loading(): boolean {
    return [...this.#loaded.values()].some((l) => l.loading);
  }

  bind(slot: ImageSlot, unit: number): void {
    const { gl } = this;
    gl.activeTexture(gl.TEXTURE0 + unit);
    gl.bindTexture(gl.TEXTURE_2D, this.#texture(slot));
    gl.bindSampler(unit, this.#sampler(slot));
  }

  #texture({ source, encoding }: ImageSlot): WebGLTexture {
    const color = encoding === 'color';
    const key = `${source}|${color ? 'color' : 'data'}`;
    const content = this.supply.contentOf(source);
    let loaded = this.#loaded.get(key);
    if (!loaded) {
      loaded = { texture: this.gl.createTexture(), content: null, loading: false };
      this.#loaded.set(key, loaded);
      this.#fill(loaded, { width: 1, height: 1, data: Uint8Array.from(WAITING[encoding]) }, color);
    }
    if (loaded.content === content || loaded.loading) return loaded.texture;
    if (content !== undefined) void this.#load(source, color, content, loaded);
    else {
      loaded.content = content;
      this.#fill(loaded, testGrid() as GlPixels, color);
    }
    return loaded.texture;
  }

  /** One at a time: a picture that changes faster than it loads is shown as often as it can be. */
  async #load(source: string, color: boolean, content: string, loaded: Loaded): Promise<void> {
    const { gl } = this;
    loaded.loading = true;
    try {
      const pixels = await this.supply.load(source, color, gl.getParameter(gl.MAX_TEXTURE_SIZE) as number);
      if (this.#gone || gl.isContextLost()) return;
      this.#fill(loaded, pixels, color);
    } catch {
      // What was shown stays; a source that is missing is reported by the text's checks.
      if (loaded.content === null && !this.#gone) this.#fill(loaded, testGrid() as GlPixels, color);
    } finally {
      loaded.content = content;
      loaded.loading = false;
      if (!this.#gone) this.changed();
    }
  }

  #fill({ texture }: Loaded, { width, height, data }: GlPixels, color: boolean): void {
    const { gl } = this;
    gl.bindTexture(gl.TEXTURE_2D, texture);
    if (data instanceof Float32Array) {
      gl.texImage2D(
        gl.TEXTURE_2D,
        0,
        this.#floats ? gl.RGBA32F : gl.RGBA16F,
        width,
        height,
        0,
        gl.RGBA,
        gl.FLOAT,
        data,
      );
      gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAX_LEVEL, this.#floats ? 1000 : 0);
      if (this.#floats) gl.generateMipmap(gl.TEXTURE_2D);
      return;
    }
    gl.texImage2D(
      gl.TEXTURE_2D,
      0,
      color ? gl.SRGB8_ALPHA8 : gl.RGBA8,
      width,
      height,
      0,
      gl.RGBA,
      gl.UNSIGNED_BYTE,
      data,
    );
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAX_LEVEL, 1000);
    gl.generateMipmap(gl.TEXTURE_2D);
  }

  #sampler(slot: ImageSlot): WebGLSampler {
    const key = `${slot.wrap}|${slot.filter}`;
    const known = this.#samplers.get(key);
    if (known) return known;
    const { gl } = this;
    const sampler = gl.createSampler();
    const wrap = { repeat: gl.REPEAT, mirror: gl.MIRRORED_REPEAT, clamp: gl.CLAMP_TO_EDGE }[slot.wrap];
    const filter = slot.filter === 'linear' ? gl.LINEAR : gl.NEAREST;
    gl.samplerParameteri(sampler, gl.TEXTURE_WRAP_S, wrap);
    gl.samplerParameteri(sampler, gl.TEXTURE_WRAP_T, wrap);
    // Smaller than it is, a linear picture is read from its mipmaps; a nearest one keeps its dots.
    gl.samplerParameteri(
      sampler,
      gl.TEXTURE_MIN_FILTER,
      slot.filter === 'linear' ? gl.LINEAR_MIPMAP_LINEAR : gl.NEAREST,
    );
    gl.samplerParameteri(sampler, gl.TEXTURE_MAG_FILTER, filter);
    this.#samplers.set(key, sampler);
    return sampler;
  }

  dispose(): void {
    this.#gone = true;
    for (const { texture } of this.#loaded.values()) this.gl.deleteTexture(texture);
    for (const sampler of this.#samplers.values()) this.gl.deleteSampler(sampler);
  }
}
