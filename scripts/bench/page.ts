import { check, compile, emitShader, forSoftware, GLSL, evaluateFrame, parse } from '@estela/core';

const HEAD = '#version 300 es\nprecision highp float;\nprecision highp int;\n';
const VERTEX =
  '#version 300 es\nout vec2 v_uv;\nvoid main() { v_uv = vec2(gl_VertexID == 1 ? 2.0 : 0.0, gl_VertexID == 2 ? 2.0 : 0.0); gl_Position = vec4(v_uv * 2.0 - 1.0, 0.0, 1.0); }';
const TAIL =
  '\nin vec2 v_uv;\nout vec4 fragment;\nuniform material_Frame host_frame;\nvoid main() { fragment = material(v_uv, host_frame).color; }\n';

const median = (values: number[]): number => values.sort((a, b) => a - b)[values.length >> 1]!;

function context(size: number): WebGL2RenderingContext {
  const canvas = document.createElement('canvas');
  [canvas.width, canvas.height] = [size, size];
  return canvas.getContext('webgl2', { antialias: false, depth: false })!;
}

function link(gl: WebGL2RenderingContext, fragment: string): WebGLProgram {
  const program = gl.createProgram();
  for (const [type, source] of [
    [gl.VERTEX_SHADER, VERTEX],
    [gl.FRAGMENT_SHADER, fragment],
  ] as const) {
    const shader = gl.createShader(type)!;
    gl.shaderSource(shader, source);
    gl.compileShader(shader);
    gl.attachShader(program, shader);
  }
  gl.linkProgram(program);
  if (!gl.getProgramParameter(program, gl.LINK_STATUS)) throw new Error(gl.getProgramInfoLog(program) ?? '');
  return program;
}

/** A fragment shader with what it is given in each of some frames. */
export interface Shader {
  readonly fragment: string;
  readonly uniforms: readonly {
    readonly name: string;
    readonly isFloat: boolean;
    readonly frames: readonly number[][];
  }[];
}

/** What all images show: 64 by 64 texels of noise, mipmapped. */
function texture(gl: WebGL2RenderingContext): void {
  const side = 64;
  const bytes = Uint8Array.from({ length: side * side * 4 }, (_, i) => (Math.imul(i + 1, 0x9e3779b1) >>> 13) & 255);
  gl.bindTexture(gl.TEXTURE_2D, gl.createTexture());
  gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA8, side, side, 0, gl.RGBA, gl.UNSIGNED_BYTE, bytes);
  gl.generateMipmap(gl.TEXTURE_2D);
}

/** Milliseconds that frames of each shader take, turn by turn: by shader and turn. */
export function shaderTimes(shaders: readonly Shader[], size: number, turns: number): number[][] {
  const gl = context(size);
  texture(gl);
  const pixel = new Uint8Array(4);
  const drawn = shaders.map(({ fragment, uniforms }) => {
    const program = link(gl, fragment);
    const places = uniforms.map((u) => gl.getUniformLocation(program, u.name));
    return (frame: number): number => {
      gl.useProgram(program);
      uniforms.forEach((u, i) => {
        const value = u.frames[frame % u.frames.length]!;
        const width = value.length as 1 | 2 | 3 | 4;
        if (u.isFloat) gl[`uniform${width}fv`](places[i]!, value);
        else gl[`uniform${width}uiv`](places[i]!, value);
      });
      const start = performance.now();
      gl.drawArrays(gl.TRIANGLES, 0, 3);
      // The frame is there once a pixel of it can be read.
      gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, pixel);
      return performance.now() - start;
    };
  });
  for (const draw of drawn) for (let i = 0; i < 2; i++) draw(i);
  const times = drawn.map((): number[] => []);
  for (let turn = 0; turn < turns; turn++) drawn.forEach((draw, i) => times[i]!.push(draw(turn)));
  return times;
}

/** Milliseconds a frame takes the card's software: drawn and read back, as a bake needs it. Of the shader as it is exported, or as the Stage has it. */
export function drawTime(text: string, size: number, frames: number, withoutShifts = false): number {
  const gl = context(size);
  const program = check(parse(text));
  const { graph } = compile(program);
  const glsl = emitShader(GLSL, graph, graph.outputs);
  const shader = link(gl, HEAD + (withoutShifts ? forSoftware(glsl.code) : glsl.code) + TAIL);
  gl.useProgram(shader);
  const dials = new Map(program.dials.map((d) => [d.name, d.value]));
  const bytes = new Uint8Array(size * size * 4);
  const frame = (time: number): void => {
    const values = evaluateFrame(
      glsl.uniforms.map((u) => u.node),
      { time, dials },
    );
    for (const u of glsl.uniforms) {
      const value = values.get(u.node) as number[];
      const place = gl.getUniformLocation(shader, `host_frame.${u.name}`);
      const width = value.length as 1 | 2 | 3 | 4;
      if (u.type.startsWith('f')) gl[`uniform${width}fv`](place, value);
      else gl[`uniform${width}uiv`](place, value);
    }
    gl.drawArrays(gl.TRIANGLES, 0, 3);
    gl.readPixels(0, 0, size, size, gl.RGBA, gl.UNSIGNED_BYTE, bytes);
  };
  for (let i = 0; i < 4; i++) frame(i / 30);
  const start = performance.now();
  for (let i = 0; i < frames; i++) frame(i / 30);
  const took = (performance.now() - start) / frames;
  gl.getExtension('WEBGL_lose_context')?.loseContext();
  return took;
}

/**
 * Median milliseconds of the front end, and of the driver's compile and link of what it gave. Each turn has a text of
 * its own, so that no cache answers.
 */
export function frontEndAndDriver(text: string, turns: number): { front: number; driver: number } {
  const gl = context(16);
  const front: number[] = [];
  const driver: number[] = [];
  for (let i = 0; i < turns; i++) {
    const own = text.replace('out color = ', `out color = 0.${String(1000 + i)} + `);
    const start = performance.now();
    const graph = compile(own).graph;
    const { code } = emitShader(GLSL, graph, graph.outputs);
    const middle = performance.now();
    gl.deleteProgram(link(gl, HEAD + code + TAIL));
    front.push(middle - start);
    driver.push(performance.now() - middle);
  }
  // The first turns warm the engine up.
  return { front: median(front.slice(5)), driver: median(driver.slice(5)) };
}
