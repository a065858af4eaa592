import {
  fromSrgb,
  type DialValues,
  type PlayerData,
  type PlayerImage,
  type PlayerSampler,
  type PlayerShader,
} from '@estela/core';

const VERTEX = `#version 300 es
uniform float player_repeat;
out vec2 v_uv;
void main() {
  v_uv = vec2(gl_VertexID & 1, gl_VertexID >> 1);
  vec2 square = vec2(gl_InstanceID % int(player_repeat), gl_InstanceID / int(player_repeat));
  vec2 place = (square + v_uv) / player_repeat;
  gl_Position = vec4(place.x * 2.0 - 1.0, 1.0 - place.y * 2.0, 0.0, 1.0);
}`;

interface Made {
  readonly program: WebGLProgram;
  readonly at: (name: string) => WebGLUniformLocation | null;
}

/** Draws the shaders of a package into a square canvas. */
export class Drawing {
  readonly gl: WebGL2RenderingContext;
  readonly #made = new Map<PlayerShader, Made>();
  readonly #textures = new Map<string, WebGLTexture>();

  /** Throws where the browser has no WebGL 2. */
  constructor(
    readonly canvas: HTMLCanvasElement,
    readonly data: PlayerData,
    /** Reads smaller copies of images where they are drawn small; a bake reads the images themselves. */
    readonly smooth: boolean,
  ) {
    const gl = canvas.getContext('webgl2', {
      premultipliedAlpha: false,
      preserveDrawingBuffer: true,
      antialias: false,
    });
    if (!gl) throw new Error('This browser has no WebGL 2, or it is turned off. The material cannot be shown.');
    this.gl = gl;
  }

  /** Reads the images. Throws where one cannot be. */
  async load(): Promise<void> {
    const { images, shaders } = this.data;
    const read = await Promise.all(images.map(pixelsOf));
    for (const { image, color } of shaders.flatMap((s) => s.samplers)) {
      const key = `${String(image)} ${String(color)}`;
      if (!this.#textures.has(key)) this.#textures.set(key, this.#texture(read[image]!, color));
    }
  }

  #texture(pixels: Pixels, color: boolean): WebGLTexture {
    const { gl } = this;
    const texture = gl.createTexture();
    gl.bindTexture(gl.TEXTURE_2D, texture);
    gl.pixelStorei(gl.UNPACK_COLORSPACE_CONVERSION_WEBGL, gl.NONE);
    const bytes = color ? gl.SRGB8_ALPHA8 : gl.RGBA8;
    if (pixels instanceof ImageBitmap) gl.texImage2D(gl.TEXTURE_2D, 0, bytes, gl.RGBA, gl.UNSIGNED_BYTE, pixels);
    else {
      const { width, height, values } = pixels;
      const whole = gl.getExtension('EXT_color_buffer_float') && gl.getExtension('OES_texture_float_linear');
      gl.texImage2D(
        gl.TEXTURE_2D,
        0,
        whole ? gl.RGBA32F : gl.RGBA16F,
        width,
        height,
        0,
        gl.RGBA,
        gl.FLOAT,
        color ? values.map((v, i) => (i % 4 === 3 ? v : fromSrgb(v))) : values,
      );
      if (!whole) gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAX_LEVEL, 0);
    }
    gl.generateMipmap(gl.TEXTURE_2D);
    return texture;
  }

  #programOf(shader: PlayerShader): Made {
    let made = this.#made.get(shader);
    if (made) return made;
    const { gl } = this;
    const program = gl.createProgram();
    for (const [type, source] of [
      [gl.VERTEX_SHADER, VERTEX],
      [gl.FRAGMENT_SHADER, shader.fragment],
    ] as const) {
      const part = gl.createShader(type);
      if (!part) throw new Error('The graphics context was lost. Reload the page.');
      gl.shaderSource(part, source);
      gl.compileShader(part);
      gl.attachShader(program, part);
      gl.deleteShader(part);
    }
    gl.linkProgram(program);
    if (!gl.getProgramParameter(program, gl.LINK_STATUS))
      throw new Error(`The shader failed to compile. ${gl.getProgramInfoLog(program) ?? ''}`);
    made = { program, at: (name) => gl.getUniformLocation(program, name) };
    this.#made.set(shader, made);
    return made;
  }

  /** Draws one frame, `repeat` by `repeat` times, into a canvas of so many pixels a side. */
  draw(
    shader: PlayerShader,
    frame: DialValues,
    { size, repeat, output }: { size: number; repeat: number; output: number },
  ): void {
    const { gl, canvas } = this;
    const { program, at } = this.#programOf(shader);
    if (canvas.width !== size) canvas.width = canvas.height = size;
    gl.viewport(0, 0, size, size);
    gl.useProgram(program);
    for (const { name, type } of shader.fields) {
      const values = [frame[name] ?? 0].flat();
      const place = at(`player_frame.${name}`);
      const width = type[1] as '1' | '2' | '3' | '4';
      if (type.startsWith('f')) gl[`uniform${width}fv`](place, values);
      else if (type.startsWith('i')) gl[`uniform${width}iv`](place, values);
      else gl[`uniform${width}uiv`](place, values);
    }
    gl.uniform1i(at('player_output'), output);
    gl.uniform1f(at('player_repeat'), repeat);
    shader.samplers.forEach((sampler, unit) => {
      this.#bind(sampler, unit);
      gl.uniform1i(at(sampler.name), unit);
    });
    gl.drawArraysInstanced(gl.TRIANGLE_STRIP, 0, 4, repeat * repeat);
  }

  #bind({ image, color, wrap, filter }: PlayerSampler, unit: number): void {
    const { gl } = this;
    gl.activeTexture(gl.TEXTURE0 + unit);
    gl.bindTexture(gl.TEXTURE_2D, this.#textures.get(`${String(image)} ${String(color)}`) ?? null);
    const round = { repeat: gl.REPEAT, mirror: gl.MIRRORED_REPEAT, clamp: gl.CLAMP_TO_EDGE }[wrap];
    for (const side of [gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T]) gl.texParameteri(gl.TEXTURE_2D, side, round);
    const [small, large] =
      filter === 'nearest' ? [gl.NEAREST, gl.NEAREST] : [this.smooth ? gl.LINEAR_MIPMAP_LINEAR : gl.LINEAR, gl.LINEAR];
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, small);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, large);
  }
}

interface Values {
  readonly width: number;
  readonly height: number;
  /** RGBA, 0..1 as stored. */
  readonly values: Float32Array<ArrayBuffer>;
}
type Pixels = ImageBitmap | Values;

async function pixelsOf(image: PlayerImage): Promise<Pixels> {
  const url = image.kind === 'file' ? image.url : `data:application/octet-stream;base64,${image.data}`;
  const blob = await (await fetch(url)).blob();
  if (image.kind === 'file') return createImageBitmap(blob, { premultiplyAlpha: 'none', colorSpaceConversion: 'none' });
  const bytes = await new Response(blob.stream().pipeThrough(new DecompressionStream('deflate'))).arrayBuffer();
  const view = new DataView(bytes);
  const { width, height } = image;
  return {
    width,
    height,
    values: Float32Array.from({ length: width * height * 4 }, (_, i) => view.getUint16(i * 2, true) / 65535),
  };
}
