import { testGrid, type ImageSlot } from '@estela/core';

/** Where the bytes of a project's sources are, by source name. */
export type SourceAddresses = ReadonlyMap<string, string>;

interface Loaded {
  texture: WebGLTexture;
  /** The test grid stands in while a source loads, and where there is none. */
  standIn: boolean;
}

/** Pixels of sources on the graphics card: one texture a source and encoding, one sampler a wrap and filter. */
export class Textures {
  readonly #loaded = new Map<string, Loaded>();
  readonly #samplers = new Map<string, WebGLSampler>();
  readonly #abort = new AbortController();

  constructor(
    readonly gl: WebGL2RenderingContext,
    readonly addresses: SourceAddresses,
    /** Called when a source has arrived and pictures made without it are old. */
    readonly changed: () => void,
  ) {}

  bind(slot: ImageSlot, unit: number): void {
    const { gl } = this;
    gl.activeTexture(gl.TEXTURE0 + unit);
    gl.bindTexture(gl.TEXTURE_2D, this.#texture(slot).texture);
    gl.bindSampler(unit, this.#sampler(slot));
  }

  #texture(slot: ImageSlot): Loaded {
    const srgb = slot.encoding === 'color';
    const key = `${slot.source}|${srgb ? 'color' : 'data'}`;
    const known = this.#loaded.get(key);
    if (known) return known;
    const { gl } = this;
    const texture = gl.createTexture();
    gl.bindTexture(gl.TEXTURE_2D, texture);
    const grid = testGrid();
    gl.texImage2D(gl.TEXTURE_2D, 0, srgb ? gl.SRGB8_ALPHA8 : gl.RGBA8, grid.width, grid.height, 0, gl.RGBA, gl.UNSIGNED_BYTE, grid.data as Uint8Array);
    gl.generateMipmap(gl.TEXTURE_2D);
    const loaded = { texture, standIn: true };
    this.#loaded.set(key, loaded);
    const address = this.addresses.get(slot.source);
    if (address !== undefined) void this.#load(address, srgb, loaded);
    return loaded;
  }

  async #load(address: string, srgb: boolean, loaded: Loaded): Promise<void> {
    try {
      const response = await fetch(address, { signal: this.#abort.signal });
      if (!response.ok) return;
      // Colours and alpha exactly as they are in the file.
      const bitmap = await createImageBitmap(await response.blob(), { premultiplyAlpha: 'none', colorSpaceConversion: 'none' });
      const { gl } = this;
      if (this.#abort.signal.aborted || gl.isContextLost()) return;
      gl.bindTexture(gl.TEXTURE_2D, loaded.texture);
      gl.texImage2D(gl.TEXTURE_2D, 0, srgb ? gl.SRGB8_ALPHA8 : gl.RGBA8, gl.RGBA, gl.UNSIGNED_BYTE, bitmap);
      gl.generateMipmap(gl.TEXTURE_2D);
      bitmap.close();
      loaded.standIn = false;
      this.changed();
    } catch {
      // The test grid stays; the source is reported missing by the text's checks.
    }
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
    gl.samplerParameteri(sampler, gl.TEXTURE_MIN_FILTER, slot.filter === 'linear' ? gl.LINEAR_MIPMAP_LINEAR : gl.NEAREST);
    gl.samplerParameteri(sampler, gl.TEXTURE_MAG_FILTER, filter);
    this.#samplers.set(key, sampler);
    return sampler;
  }

  dispose(): void {
    this.#abort.abort();
    for (const { texture } of this.#loaded.values()) this.gl.deleteTexture(texture);
    for (const sampler of this.#samplers.values()) this.gl.deleteSampler(sampler);
  }
}
