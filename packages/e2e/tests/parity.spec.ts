import { readdirSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { check, emitGlsl, evaluateFrame, lower, OPERATIONS, parse, settingValues, testGrid, WasmEvaluator } from '@estela/core';
import fc from 'fast-check';
import { program as randomProgram } from '../../core/test/random-programs.ts';
import { expect, test } from './support.ts';

const SIDE = 48;
const demo = fileURLToPath(new URL('../../../demo/materials/', import.meta.url));
const materials = [
  ...OPERATIONS.map((o) => ({ name: o.name, text: o.example })),
  ...readdirSync(demo).map((name) => ({ name, text: readFileSync(demo + name, 'utf8') })),
  ...fc.sample(randomProgram, { numRuns: 25, seed: 11 }).map((text, i) => ({ name: `random program ${String(i)}`, text })),
];

/** Draws a fragment shader into SIDE by SIDE pixels once for each set of uniforms; gives the bytes, rows from the top. */
interface Drawing {
  readonly source: string;
  readonly uniforms: readonly (readonly { readonly name: string; readonly type: string; readonly value: readonly number[] }[])[];
  readonly samplers: readonly { readonly name: string; readonly wrap: string; readonly filter: string; readonly encoding: string }[];
  readonly grid: { readonly width: number; readonly height: number; readonly data: readonly number[] };
  readonly side: number;
}

function draw({ source, uniforms, samplers, grid, side }: Drawing): number[][] {
  const canvas = document.createElement('canvas');
  [canvas.width, canvas.height] = [side, side];
  const gl = canvas.getContext('webgl2', { preserveDrawingBuffer: true, antialias: false })!;
  const program = gl.createProgram();
  const vertex = '#version 300 es\nvoid main() { gl_Position = vec4(vec2(gl_VertexID == 1 ? 3.0 : -1.0, gl_VertexID == 2 ? 3.0 : -1.0), 0.0, 1.0); }';
  for (const [type, text] of [
    [gl.VERTEX_SHADER, vertex],
    [gl.FRAGMENT_SHADER, source],
  ] as const) {
    const shader = gl.createShader(type)!;
    gl.shaderSource(shader, text);
    gl.compileShader(shader);
    if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS)) throw new Error(gl.getShaderInfoLog(shader) ?? '');
    gl.attachShader(program, shader);
  }
  gl.linkProgram(program);
  gl.useProgram(program);
  samplers.forEach(({ name, wrap, filter, encoding }, unit) => {
    gl.activeTexture(gl.TEXTURE0 + unit);
    gl.bindTexture(gl.TEXTURE_2D, gl.createTexture());
    gl.texImage2D(
      gl.TEXTURE_2D,
      0,
      encoding === 'color' ? gl.SRGB8_ALPHA8 : gl.RGBA8,
      grid.width,
      grid.height,
      0,
      gl.RGBA,
      gl.UNSIGNED_BYTE,
      Uint8Array.from(grid.data),
    );
    const mode = wrap === 'repeat' ? gl.REPEAT : wrap === 'mirror' ? gl.MIRRORED_REPEAT : gl.CLAMP_TO_EDGE;
    for (const axis of [gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T]) gl.texParameteri(gl.TEXTURE_2D, axis, mode);
    for (const way of [gl.TEXTURE_MIN_FILTER, gl.TEXTURE_MAG_FILTER]) gl.texParameteri(gl.TEXTURE_2D, way, filter === 'linear' ? gl.LINEAR : gl.NEAREST);
    gl.uniform1i(gl.getUniformLocation(program, name), unit);
  });
  const pictures = uniforms.map((set) => {
    for (const { name, type, value } of set) {
      const width = value.length as 1 | 2 | 3 | 4;
      const place = gl.getUniformLocation(program, name);
      if (type.startsWith('f')) gl[`uniform${width}fv`](place, value as number[]);
      else if (type.startsWith('u')) gl[`uniform${width}uiv`](place, value as number[]);
      else gl[`uniform${width}iv`](place, value as number[]);
    }
    gl.drawArrays(gl.TRIANGLES, 0, 3);
    const bytes = new Uint8Array(side * side * 4);
    gl.readPixels(0, 0, side, side, gl.RGBA, gl.UNSIGNED_BYTE, bytes);
    return [...bytes];
  });
  gl.getExtension('WEBGL_lose_context')!.loseContext();
  return pictures;
}

test('the graphics card and WebAssembly agree on every operation, demo material and random programs', async ({ page }) => {
  test.setTimeout(600_000);
  await page.goto('/mark.svg');
  await page.goto('/nowhere');
  const grid = testGrid();
  const faults: string[] = [];
  for (const { name, text } of materials) {
    const program = check(parse(text));
    for (const variant of [undefined, ...program.variants.map((v) => v.name)]) {
      const { dials, switches } = settingValues(program, variant);
      const graph = lower(program, switches);
      const color = graph.outputs.get('color')!;
      const glsl = emitGlsl(graph, new Map([['color', color]]));
      const inputs: Record<string, string> = {
        uv: 'at',
        uv2: 'at',
        screen: 'at',
        position: 'vec3(at - 0.5, 0.0) * vec3(1.0, -1.0, 1.0)',
        world: 'vec3(at - 0.5, 0.0) * vec3(1.0, -1.0, 1.0)',
        vertex_color: 'vec4(1.0)',
        facing: '1.0',
        gap: '1.0e6',
      };
      const source = `#version 300 es\nprecision highp float;\nprecision highp int;\nout vec4 fragment;\n${glsl.code}\nvoid main() { vec2 at = gl_FragCoord.xy / ${String(SIDE)}.0; material(${[...glsl.inputs.map((i) => inputs[i]), 'fragment'].join(', ')}); }`;
      const moments = [0, 0.7, 1.9].map((time) => ({ time, dials }));
      const uniforms = moments.map((moment) => {
        const values = evaluateFrame(
          glsl.uniforms.map((u) => u.node),
          moment,
        );
        return glsl.uniforms.map((u) => ({ name: u.name, type: u.type, value: [...values.get(u.node)!] }));
      });
      const samplers = glsl.samplers.map((s) => ({ name: s.name, wrap: s.slot.wrap, filter: s.slot.filter, encoding: s.slot.encoding }));
      const pictures = await page.evaluate(draw, { source, uniforms, samplers, grid: { ...grid, data: [...grid.data] }, side: SIDE });
      const wasm = new WasmEvaluator([color]);
      moments.forEach((moment, m) => {
        wasm.setFrame(moment);
        const [values] = wasm.picture(SIDE, SIDE);
        let wrong = 0;
        let worst = 0;
        for (let i = 0; i < SIDE * SIDE; i++) {
          const apart = Math.max(...[0, 1, 2, 3].map((c) => Math.abs(pictures[m]![i * 4 + c]! - Math.min(Math.max(values![i * 4 + c]!, 0), 1) * 255)));
          // Half a step is what rounding to bytes takes.
          if (apart > 1.5) wrong++;
          worst = Math.max(worst, apart);
        }
        const share = wrong / (SIDE * SIDE);
        if (share > 0.005)
          faults.push(
            `${name}${variant === undefined ? '' : `, ${variant}`} at ${String(moment.time)} s: ${(share * 100).toFixed(2)} % of pixels differ, by up to ${worst.toFixed(1)} of 255`,
          );
      });
    }
  }
  expect(faults).toEqual([]);
});
