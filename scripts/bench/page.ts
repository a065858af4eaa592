import { check, compile, emitShader, GLSL, evaluateFrame, parse } from '@estela/core';

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

/** Milliseconds a frame takes the card's software: drawn and read back, as a bake needs it. */
export function drawTime(text: string, size: number, frames: number): number {
  const gl = context(size);
  const program = check(parse(text));
  const { graph } = compile(program);
  const glsl = emitShader(GLSL, graph, graph.outputs);
  const shader = link(gl, HEAD + glsl.code + TAIL);
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
  return (performance.now() - start) / frames;
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
