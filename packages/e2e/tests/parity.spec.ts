import { readdirSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import {
  check,
  emitShader,
  forSoftware,
  GLSL,
  evaluateFrame,
  compile,
  OPERATIONS,
  parse,
  settingValues,
  testGrid,
  WasmEvaluator,
} from '@estela/core';
import type { Page } from '@playwright/test';
import fc from 'fast-check';
import { extremeProgram, isOrdinary } from '../../core/test/extreme-programs.ts';
import { sampled } from '../../core/test/judging.ts';
import { program as randomProgram } from '../../core/test/random-programs.ts';
import { expect, test } from './support.ts';

const SIDE = 48;
const demo = fileURLToPath(new URL('../../../demo/materials/', import.meta.url));
interface Named {
  readonly name: string;
  readonly text: string;
}
const materials: Readonly<Record<string, readonly Named[]>> = {
  operation: OPERATIONS.map((o) => ({ name: o.name, text: o.example })),
  'demo material': readdirSync(demo).map((name) => ({ name, text: readFileSync(demo + name, 'utf8') })),
  'random program': fc
    .sample(randomProgram, sampled(25, 11))
    .map((text, i) => ({ name: `random program ${String(i)}`, text })),
  'program of extreme magnitudes': fc
    .sample(extremeProgram, { numRuns: 600, seed: 11 })
    // What a card may be off by in the last bits is blown up by a remainder, by a million cells, by a hash.
    .filter((text) => !/exp|log|sin|cos|atan|power|mod|fract|uv \|> value/.test(text))
    .filter((text) => !/ \/ |sqrt/.test(text) || !/value|white|cellular/.test(text))
    .map((text) => text.replace(/^out color = (.*)$/m, 'end = $1\nout color = end / (1 + abs(end)) * 0.5 + 0.5'))
    .filter((text) => compile(text).ok && isOrdinary(text, SIDE))
    .slice(0, 50)
    .map((text) => ({ name: text, text })),
};

/** A fragment shader that is drawn into SIDE by SIDE pixels once for each set of uniforms. */
interface Drawing {
  readonly source: string;
  readonly uniforms: readonly (readonly {
    readonly name: string;
    readonly type: string;
    readonly value: readonly number[];
  }[])[];
  readonly samplers: readonly {
    readonly name: string;
    readonly wrap: string;
    readonly filter: string;
    readonly encoding: string;
  }[];
  readonly side: number;
}

/** One context and one texture for all, on a page with nothing else on it. */
interface Bare {
  readonly gl: WebGL2RenderingContext;
  readonly texture: (encoding: string) => WebGLTexture;
}

function prepare({
  grid,
  side,
}: {
  readonly grid: { readonly width: number; readonly height: number; readonly data: readonly number[] };
  readonly side: number;
}): void {
  const canvas = document.createElement('canvas');
  [canvas.width, canvas.height] = [side, side];
  const gl = canvas.getContext('webgl2', { preserveDrawingBuffer: true, antialias: false })!;
  const bytes = Uint8Array.from(grid.data);
  const texture = (encoding: string): WebGLTexture => {
    const made = gl.createTexture();
    gl.bindTexture(gl.TEXTURE_2D, made);
    gl.texImage2D(
      gl.TEXTURE_2D,
      0,
      encoding === 'color' ? gl.SRGB8_ALPHA8 : gl.RGBA8,
      grid.width,
      grid.height,
      0,
      gl.RGBA,
      gl.UNSIGNED_BYTE,
      bytes,
    );
    return made;
  };
  Object.assign(window, { bare: { gl, texture } satisfies Bare });
}

/** The bytes of each picture, rows from the top. */
function draw({ source, uniforms, samplers, side }: Drawing): number[][] {
  const { gl, texture } = (window as unknown as { bare: Bare }).bare;
  const program = gl.createProgram();
  const vertex =
    '#version 300 es\nvoid main() { gl_Position = vec4(vec2(gl_VertexID == 1 ? 3.0 : -1.0, gl_VertexID == 2 ? 3.0 : -1.0), 0.0, 1.0); }';
  for (const [type, text] of [
    [gl.VERTEX_SHADER, vertex],
    [gl.FRAGMENT_SHADER, source],
  ] as const) {
    const shader = gl.createShader(type)!;
    gl.shaderSource(shader, text);
    gl.compileShader(shader);
    if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS)) throw new Error(gl.getShaderInfoLog(shader) ?? '');
    gl.attachShader(program, shader);
    gl.deleteShader(shader);
  }
  gl.linkProgram(program);
  gl.useProgram(program);
  const textures = samplers.map(({ name, wrap, filter, encoding }, unit) => {
    gl.activeTexture(gl.TEXTURE0 + unit);
    const made = texture(encoding);
    const mode = wrap === 'repeat' ? gl.REPEAT : wrap === 'mirror' ? gl.MIRRORED_REPEAT : gl.CLAMP_TO_EDGE;
    for (const axis of [gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T]) gl.texParameteri(gl.TEXTURE_2D, axis, mode);
    for (const way of [gl.TEXTURE_MIN_FILTER, gl.TEXTURE_MAG_FILTER])
      gl.texParameteri(gl.TEXTURE_2D, way, filter === 'linear' ? gl.LINEAR : gl.NEAREST);
    gl.uniform1i(gl.getUniformLocation(program, name), unit);
    return made;
  });
  const pictures = uniforms.map((set) => {
    for (const { name, type, value } of set) {
      const width = value.length as 1 | 2 | 3 | 4;
      const place = gl.getUniformLocation(program, name);
      if (type.startsWith('f')) gl[`uniform${width}fv`](place, value as number[]);
      else if (type.startsWith('u')) gl[`uniform${width}uiv`](place, value as number[]);
      else gl[`uniform${width}iv`](place, value as number[]);
    }
    gl.clear(gl.COLOR_BUFFER_BIT);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
    const bytes = new Uint8Array(side * side * 4);
    gl.readPixels(0, 0, side, side, gl.RGBA, gl.UNSIGNED_BYTE, bytes);
    return [...bytes];
  });
  const error = gl.getError();
  if (error !== gl.NO_ERROR) throw new Error(`the graphics card says ${String(error)}`);
  for (const made of textures) gl.deleteTexture(made);
  gl.deleteProgram(program);
  return pictures;
}

for (const [kind, some] of Object.entries(materials)) {
  test(`the graphics card and WebAssembly agree on every ${kind}`, async ({ page }) => {
    test.setTimeout(300_000);
    await page.goto('about:blank');
    const grid = testGrid();
    await page.evaluate(prepare, { grid: { ...grid, data: [...grid.data] }, side: SIDE });
    expect(await faultsOf(page, some)).toEqual([]);
  });
}

/** Where the two differ, in words. */
async function faultsOf(page: Page, some: readonly Named[]): Promise<string[]> {
  const faults: string[] = [];
  for (const { name, text } of some) {
    const program = check(parse(text));
    for (const variant of [undefined, ...program.variants.map((v) => v.name)]) {
      const { dials } = settingValues(program, variant);
      const { graph } = compile(program, { variant });
      const color = graph.outputs.get('color')!;
      const glsl = emitShader(GLSL, graph, new Map([['color', color]]));
      const inputs: Record<string, string> = {
        uv: 'at',
        uv2: 'at',
        screen: 'at',
        position: 'vec3(at - 0.5, 0.0) * vec3(1.0, -1.0, 1.0)',
        world: 'vec3(at - 0.5, 0.0) * vec3(1.0, -1.0, 1.0)',
        vertex_color: 'vec4(1.0)',
        facing: '1.0',
        depth_behind: '1.0e6',
      };
      const source = `#version 300 es\nprecision highp float;\nprecision highp int;\nout vec4 fragment;\n${glsl.code}\nuniform material_Frame host_frame;\nvoid main() { vec2 at = gl_FragCoord.xy / ${String(SIDE)}.0; fragment = material(${[...glsl.inputs.map((i) => inputs[i]), 'host_frame'].join(', ')}).color; }`;
      const moments = [0, 0.7, 1.9].map((time) => ({ time, dials }));
      const uniforms = moments.map((moment) => {
        const values = evaluateFrame(
          glsl.uniforms.map((u) => u.node),
          moment,
        );
        return glsl.uniforms.map((u) => ({
          name: `host_frame.${u.name}`,
          type: u.type,
          value: [...values.get(u.node)!],
        }));
      });
      const samplers = glsl.samplers.map((s) => ({
        name: s.name,
        wrap: s.slot.wrap,
        filter: s.slot.filter,
        encoding: s.slot.encoding,
      }));
      const pictures = await page.evaluate(draw, { source, uniforms, samplers, side: SIDE });
      const soon = forSoftware(source);
      if (soon !== source) {
        const others = await page.evaluate(draw, { source: soon, uniforms, samplers, side: SIDE });
        if (JSON.stringify(others) !== JSON.stringify(pictures)) faults.push(`${name} is another without shifts`);
      }
      const wasm = new WasmEvaluator([color]);
      moments.forEach((moment, m) => {
        wasm.setFrame(moment);
        const [values] = wasm.picture(SIDE, SIDE);
        let wrong = 0;
        let worst = 0;
        for (let i = 0; i < SIDE * SIDE; i++) {
          const apart = Math.max(
            ...[0, 1, 2, 3].map((c) =>
              Math.abs(pictures[m]![i * 4 + c]! - Math.min(Math.max(values![i * 4 + c]!, 0), 1) * 255),
            ),
          );
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
  return faults;
}
