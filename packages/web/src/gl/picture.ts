/** A picture in linear light with depth, drawn beside the canvas; both can be read by shaders. */
export class Picture {
  readonly frame: WebGLFramebuffer;
  readonly color: WebGLTexture;
  readonly #depth: WebGLTexture;
  /** Half floats, where the context can draw into them; else sRGB bytes, which keep dark steps fine and cut what is brighter than white. */
  readonly #format: readonly [internal: number, type: number];
  #size = '';

  constructor(readonly gl: WebGL2RenderingContext) {
    this.frame = gl.createFramebuffer();
    this.color = gl.createTexture();
    this.#depth = gl.createTexture();
    const floats = gl.getExtension('EXT_color_buffer_float') ?? gl.getExtension('EXT_color_buffer_half_float');
    this.#format = floats ? [gl.RGBA16F, gl.HALF_FLOAT] : [gl.SRGB8_ALPHA8, gl.UNSIGNED_BYTE];
  }

  /** Makes it what is drawn into, at a size in pixels. */
  bind(width: number, height: number): void {
    const { gl } = this;
    const size = `${String(width)} ${String(height)}`;
    gl.activeTexture(gl.TEXTURE0);
    gl.bindFramebuffer(gl.FRAMEBUFFER, this.frame);
    if (size !== this.#size) {
      this.#size = size;
      const [internal, type] = this.#format;
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
    gl.viewport(0, 0, width, height);
  }

  /** Copies colour and depth into another of the same size, and goes on drawing there. */
  copyTo(other: Picture, width: number, height: number): void {
    const { gl } = this;
    other.bind(width, height);
    gl.bindFramebuffer(gl.READ_FRAMEBUFFER, this.frame);
    gl.blitFramebuffer(0, 0, width, height, 0, 0, width, height, gl.COLOR_BUFFER_BIT | gl.DEPTH_BUFFER_BIT, gl.NEAREST);
    gl.bindFramebuffer(gl.FRAMEBUFFER, other.frame);
  }

  /** Puts its colour, with smaller ones made of it, and its depth where shaders can read them: in two texture units from `unit` on. */
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
