/**
 * Half floats, where the context can draw into them; else sRGB bytes, which keep dark steps fine and cut what is
 * brighter than white.
 */
function formatOf(gl: WebGL2RenderingContext): readonly [internal: number, type: number] {
  const floats = gl.getExtension('EXT_color_buffer_float') ?? gl.getExtension('EXT_color_buffer_half_float');
  return floats ? [gl.RGBA16F, gl.HALF_FLOAT] : [gl.SRGB8_ALPHA8, gl.UNSIGNED_BYTE];
}

/** A picture in linear light with depth, for shaders to read. It is filled from an `MultisampleTarget`. */
export class RenderTarget {
  readonly frame: WebGLFramebuffer;
  readonly color: WebGLTexture;
  readonly #depth: WebGLTexture;
  #size = '';

  constructor(readonly gl: WebGL2RenderingContext) {
    this.frame = gl.createFramebuffer();
    this.color = gl.createTexture();
    this.#depth = gl.createTexture();
  }

  /** Gives it a size in pixels. */
  fit(width: number, height: number): void {
    const { gl } = this;
    const size = `${String(width)} ${String(height)}`;
    if (size === this.#size) return;
    this.#size = size;
    const [internal, type] = formatOf(gl);
    gl.activeTexture(gl.TEXTURE0);
    gl.bindFramebuffer(gl.FRAMEBUFFER, this.frame);
    gl.bindTexture(gl.TEXTURE_2D, this.color);
    gl.texImage2D(gl.TEXTURE_2D, 0, internal, width, height, 0, gl.RGBA, type, null);
    // A texture without mipmaps can only be read with a filter that wants none.
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
    for (const side of [gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T]) gl.texParameteri(gl.TEXTURE_2D, side, gl.CLAMP_TO_EDGE);
    gl.bindTexture(gl.TEXTURE_2D, this.#depth);
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.DEPTH_COMPONENT24, width, height, 0, gl.DEPTH_COMPONENT, gl.UNSIGNED_INT, null);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, gl.NEAREST);
    gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, this.color, 0);
    gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.DEPTH_ATTACHMENT, gl.TEXTURE_2D, this.#depth, 0);
  }

  /**
   * Puts its colour, with smaller ones made of it, and its depth where shaders can read them: in two texture units from
   * `unit` on.
   */
  offer(unit: number): void {
    const { gl } = this;
    gl.activeTexture(gl.TEXTURE0 + unit);
    gl.bindTexture(gl.TEXTURE_2D, this.color);
    gl.bindSampler(unit, null);
    gl.generateMipmap(gl.TEXTURE_2D);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.LINEAR_MIPMAP_LINEAR);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, gl.LINEAR);
    gl.activeTexture(gl.TEXTURE0 + unit + 1);
    gl.bindTexture(gl.TEXTURE_2D, this.#depth);
    gl.bindSampler(unit + 1, null);
    gl.activeTexture(gl.TEXTURE0);
  }
}

/** What scenes are drawn on: linear light and depth, with several samples a pixel where edges are to be smooth. */
export class MultisampleTarget {
  readonly #frame: WebGLFramebuffer;
  readonly #color: WebGLRenderbuffer;
  readonly #depth: WebGLRenderbuffer;
  /** Samples that the context can keep; asked for at the first drawing, as an answer takes long at the start. */
  #most: number | undefined;
  #form = '';

  constructor(readonly gl: WebGL2RenderingContext) {
    this.#frame = gl.createFramebuffer();
    this.#color = gl.createRenderbuffer();
    this.#depth = gl.createRenderbuffer();
  }

  get #limit(): number {
    const { gl } = this;
    return (this.#most ??= Math.max(
      0,
      ...((gl.getInternalformatParameter(gl.RENDERBUFFER, formatOf(gl)[0], gl.SAMPLES) as Int32Array | null) ?? []),
    ));
  }

  /**
   * Makes it what is drawn on, at a size in pixels and with so many samples for each, 0 for the pixel's middle alone.
   */
  bind(width: number, height: number, samples: number): void {
    const { gl } = this;
    gl.bindFramebuffer(gl.FRAMEBUFFER, this.#frame);
    const count = Math.min(samples, this.#limit);
    const form = `${String(width)} ${String(height)} ${String(count)}`;
    if (form !== this.#form) {
      this.#form = form;
      for (const [buffer, format, attachment] of [
        [this.#color, formatOf(gl)[0], gl.COLOR_ATTACHMENT0],
        [this.#depth, gl.DEPTH_COMPONENT24, gl.DEPTH_ATTACHMENT],
      ] as const) {
        gl.bindRenderbuffer(gl.RENDERBUFFER, buffer);
        gl.renderbufferStorageMultisample(gl.RENDERBUFFER, count, format, width, height);
        gl.framebufferRenderbuffer(gl.FRAMEBUFFER, attachment, gl.RENDERBUFFER, buffer);
      }
    }
    gl.viewport(0, 0, width, height);
  }

  /** Copies what has been drawn into a picture, with its depth where that is wanted; drawing goes on here. */
  copyTo(picture: RenderTarget, width: number, height: number, depth: boolean): void {
    const { gl } = this;
    picture.fit(width, height);
    gl.bindFramebuffer(gl.READ_FRAMEBUFFER, this.#frame);
    gl.bindFramebuffer(gl.DRAW_FRAMEBUFFER, picture.frame);
    gl.blitFramebuffer(
      0,
      0,
      width,
      height,
      0,
      0,
      width,
      height,
      gl.COLOR_BUFFER_BIT | (depth ? gl.DEPTH_BUFFER_BIT : 0),
      gl.NEAREST,
    );
    gl.bindFramebuffer(gl.FRAMEBUFFER, this.#frame);
  }
}
