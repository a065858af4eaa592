import { spawnSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import {
  check,
  compile,
  emitShader,
  evaluateFrame,
  HLSL,
  OPERATIONS,
  packageCode,
  parse,
  settingValues,
  testGrid,
  WasmEvaluator,
  WGSL,
  type ShaderMaterial,
} from '@estela/core';
import type { Page } from '@playwright/test';
import fc from 'fast-check';
import { JUDGE, MOMENT, sampled } from '../../core/test/judging.ts';
import { hostile } from '../../core/test/hostile-names.ts';
import { program as randomProgram } from '../../core/test/random-programs.ts';
import { chromiumFlags } from '../playwright.config.ts';
import { expect, test } from './support.ts';

test.use({
  launchOptions: {
    executablePath: '/usr/bin/chromium',
    args: [...chromiumFlags, '--enable-unsafe-webgpu', '--use-webgpu-adapter=swiftshader', '--enable-features=Vulkan'],
  },
});

// Not in TypeScript's own types of the browser.
declare const GPUTextureUsage: Readonly<
  Record<'COPY_SRC' | 'COPY_DST' | 'TEXTURE_BINDING' | 'RENDER_ATTACHMENT', number>
>;
declare const GPUBufferUsage: Readonly<Record<'MAP_READ' | 'COPY_DST', number>>;
declare const GPUMapMode: Readonly<Record<'READ', number>>;

const SIDE = 48;
const TIME = MOMENT;
const demo = fileURLToPath(new URL('../../../demo/materials/', import.meta.url));
const materials = readdirSync(demo).map((name) => ({ name, text: readFileSync(demo + name, 'utf8') }));
const all = [
  ...OPERATIONS.map((o) => ({ name: o.name, text: o.example })),
  ...materials,
  ...(JUDGE > 0
    ? fc.sample(randomProgram, sampled(0, 12)).map((text, i) => ({ name: `random program ${String(i)}`, text }))
    : []),
];

/** What a browser draws: its source, and the images it reads by name. */
interface Drawing {
  readonly name: string;
  readonly source: string;
  readonly samplers: readonly {
    readonly name: string;
    readonly wrap: string;
    readonly filter: string;
    readonly encoding: string;
  }[];
}
/** What a page draws one after the other, `side` pixels wide and high; every image is the grid. */
interface Drawings {
  readonly drawings: readonly Drawing[];
  readonly grid: ReturnType<typeof gridOf>;
  readonly side: number;
}
interface Made {
  readonly name: string;
  readonly shader: ShaderMaterial;
  /** Statements that set the fields of a frame, and the inputs as arguments. */
  readonly frame: readonly string[];
  /** What the bake shows: 4 values a pixel. */
  readonly expected: Float32Array;
}

/** All materials in all variants, in one language, with the frame of a moment computed by the host. */
function made(dialect: typeof HLSL): Made[] {
  return all.flatMap(({ name, text }) => {
    const program = check(parse(text));
    return [undefined, ...program.variants.map((v) => v.name)].map((variant) => {
      const { graph } = compile(program, { variant });
      const color = graph.outputs.get('color')!;
      const moment = { time: TIME, dials: settingValues(program, variant).dials };
      const shader = emitShader(dialect, graph, new Map([['color', color]]));
      const values = evaluateFrame(
        shader.uniforms.map((u) => u.node),
        moment,
      );
      const literal = (type: string, value: number): string =>
        type.startsWith('f')
          ? Number.isInteger(value) && Math.abs(value) < 1e15
            ? value.toFixed(1)
            : String(Math.fround(value))
          : `${String(value)}${type.startsWith('u') ? 'u' : ''}`;
      const wasm = new WasmEvaluator([color]);
      wasm.setFrame(moment);
      return {
        name: variant === undefined ? name : `${name}, ${variant}`,
        shader,
        frame: [
          dialect.variable({ name: 'host', type: shader.names.Frame }),
          ...shader.uniforms.map((u) => {
            const parts = values.get(u.node)!.map((v) => literal(u.type, v));
            return `host.${u.name} = ${parts.length === 1 ? parts[0]! : `${dialect.typeName(u.type)}(${parts.join(', ')})`};`;
          }),
        ],
        expected: wasm.picture(SIDE, SIDE)[0]!,
      };
    });
  });
}

const samplersOf = ({ samplers }: ShaderMaterial): Drawing['samplers'] =>
  samplers.map(({ name, slot }) => ({ name, wrap: slot.wrap, filter: slot.filter, encoding: slot.encoding }));

/** Materials whose pictures differ from the bake's by more than a step of 255 on more than half a percent. */
function faults(some: readonly Made[], pictures: readonly (readonly number[])[]): string[] {
  return some.flatMap(({ name, expected }, k) => {
    const picture = pictures[k]!;
    let wrong = 0;
    for (let i = 0; i < SIDE * SIDE * 4; i += 4)
      if ([0, 1, 2, 3].some((c) => Math.abs(picture[i + c]! - Math.min(Math.max(expected[i + c]!, 0), 1) * 255) > 1.5))
        wrong++;
    const share = wrong / (SIDE * SIDE);
    return share > 0.005 ? [`${name}: ${(share * 100).toFixed(2)} % of pixels differ`] : [];
  });
}

/** Draws fragment shaders by WebGL 2; images go by names that hold theirs. */
function drawGl({ drawings, grid, side }: Drawings): number[][] {
  const canvas = document.createElement('canvas');
  [canvas.width, canvas.height] = [side, side];
  const gl = canvas.getContext('webgl2', { preserveDrawingBuffer: true, antialias: false })!;
  const vertex =
    '#version 300 es\nvoid main() { gl_Position = vec4(vec2(gl_VertexID == 1 ? 3.0 : -1.0, gl_VertexID == 2 ? 3.0 : -1.0), 0.0, 1.0); }';
  return drawings.map(({ name, source, samplers }) => {
    const program = gl.createProgram();
    for (const [type, text] of [
      [gl.VERTEX_SHADER, vertex],
      [gl.FRAGMENT_SHADER, source],
    ] as const) {
      const shader = gl.createShader(type)!;
      gl.shaderSource(shader, text);
      gl.compileShader(shader);
      gl.attachShader(program, shader);
    }
    gl.linkProgram(program);
    if (!gl.getProgramParameter(program, gl.LINK_STATUS))
      throw new Error(`${name}: ${gl.getProgramInfoLog(program) ?? ''}`);
    gl.useProgram(program);
    const active = Array.from(
      { length: gl.getProgramParameter(program, gl.ACTIVE_UNIFORMS) as number },
      (_, i) => gl.getActiveUniform(program, i)!.name,
    );
    samplers.forEach(({ name: image, wrap, filter, encoding }, unit) => {
      gl.activeTexture(gl.TEXTURE0 + unit);
      gl.bindTexture(gl.TEXTURE_2D, gl.createTexture());
      const format = encoding === 'color' ? gl.SRGB8_ALPHA8 : gl.RGBA8;
      gl.texImage2D(
        gl.TEXTURE_2D,
        0,
        format,
        grid.width,
        grid.height,
        0,
        gl.RGBA,
        gl.UNSIGNED_BYTE,
        Uint8Array.from(grid.data),
      );
      const mode = wrap === 'repeat' ? gl.REPEAT : wrap === 'mirror' ? gl.MIRRORED_REPEAT : gl.CLAMP_TO_EDGE;
      for (const axis of [gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T]) gl.texParameteri(gl.TEXTURE_2D, axis, mode);
      for (const kind of [gl.TEXTURE_MIN_FILTER, gl.TEXTURE_MAG_FILTER])
        gl.texParameteri(gl.TEXTURE_2D, kind, filter === 'linear' ? gl.LINEAR : gl.NEAREST);
      const uniform = active.find((a) => a.includes(`${image}_sampler`) || a.endsWith(image));
      if (uniform !== undefined) gl.uniform1i(gl.getUniformLocation(program, uniform), unit);
    });
    gl.drawArrays(gl.TRIANGLES, 0, 3);
    const bytes = new Uint8Array(side * side * 4);
    gl.readPixels(0, 0, side, side, gl.RGBA, gl.UNSIGNED_BYTE, bytes);
    gl.deleteProgram(program);
    return [...bytes];
  });
}

/** Draws by WebGPU; throws where a module has any message. */
async function drawGpu({ drawings, grid, side }: Drawings): Promise<number[][]> {
  const gpu = navigator.gpu;
  const device = await (await gpu.requestAdapter())!.requestDevice();
  const texture = (format: GPUTextureFormat): GPUTexture => {
    const made = device.createTexture({
      size: [grid.width, grid.height],
      format,
      usage: GPUTextureUsage.TEXTURE_BINDING | GPUTextureUsage.COPY_DST,
    });
    device.queue.writeTexture({ texture: made }, Uint8Array.from(grid.data), { bytesPerRow: grid.width * 4 }, [
      grid.width,
      grid.height,
    ]);
    return made;
  };
  const textures = { color: texture('rgba8unorm-srgb'), other: texture('rgba8unorm') };
  const target = device.createTexture({
    size: [side, side],
    format: 'rgba8unorm',
    usage: GPUTextureUsage.RENDER_ATTACHMENT | GPUTextureUsage.COPY_SRC,
  });
  const row = Math.ceil((side * 4) / 256) * 256;
  const buffer = device.createBuffer({ size: row * side, usage: GPUBufferUsage.COPY_DST | GPUBufferUsage.MAP_READ });
  const pictures: number[][] = [];
  for (const { name, source, samplers } of drawings) {
    device.pushErrorScope('validation');
    const module = device.createShaderModule({ code: source });
    const { messages } = await module.getCompilationInfo();
    if (messages.length > 0) throw new Error(`${name}: ${messages.map((m) => m.message).join('; ')}`);
    const pipeline = device.createRenderPipeline({
      layout: 'auto',
      vertex: { module, entryPoint: 'vs' },
      fragment: { module, entryPoint: 'fs', targets: [{ format: 'rgba8unorm' }] },
    });
    const modes = { repeat: 'repeat', mirror: 'mirror-repeat', clamp: 'clamp-to-edge' } as const;
    const entries = samplers.flatMap(({ wrap, filter, encoding }, i) => {
      const mode = modes[wrap as keyof typeof modes];
      const kind = filter as GPUFilterMode;
      return [
        { binding: 2 * i + 1, resource: textures[encoding === 'color' ? 'color' : 'other'].createView() },
        {
          binding: 2 * i + 2,
          resource: device.createSampler({ addressModeU: mode, addressModeV: mode, magFilter: kind, minFilter: kind }),
        },
      ];
    });
    const encoder = device.createCommandEncoder();
    const pass = encoder.beginRenderPass({
      colorAttachments: [{ view: target.createView(), loadOp: 'clear', storeOp: 'store' }],
    });
    pass.setPipeline(pipeline);
    if (entries.length > 0)
      pass.setBindGroup(0, device.createBindGroup({ layout: pipeline.getBindGroupLayout(0), entries }));
    pass.draw(3);
    pass.end();
    encoder.copyTextureToBuffer({ texture: target }, { buffer, bytesPerRow: row }, [side, side]);
    device.queue.submit([encoder.finish()]);
    const error = await device.popErrorScope();
    if (error) throw new Error(`${name}: ${error.message}`);
    await buffer.mapAsync(GPUMapMode.READ);
    const bytes = new Uint8Array(buffer.getMappedRange());
    pictures.push(Array.from({ length: side }, (_, y) => [...bytes.subarray(y * row, y * row + side * 4)]).flat());
    buffer.unmap();
  }
  return pictures;
}

const gridOf = (): { width: number; height: number; data: number[] } => {
  const { width, height, data } = testGrid();
  return { width, height, data: [...data] };
};

const inputs = (vector: (width: number, parts: string) => string): Record<string, string> => ({
  uv: 'at',
  uv2: 'at',
  screen: 'at',
  position: vector(3, 'at.x - 0.5, 0.5 - at.y, 0.0'),
  world: vector(3, 'at.x - 0.5, 0.5 - at.y, 0.0'),
  vertex_color: vector(4, '1.0, 1.0, 1.0, 1.0'),
  facing: '1.0',
  depth_behind: '1.0e6',
});
const calls = ({ shader: { names, inputs: read } }: Made, given: Record<string, string>): string =>
  `${names.material}(${[...read.map((i) => given[i]), 'host'].join(', ')}).color`;

const bare = async (page: Page): Promise<void> => {
  await page.goto('/api/projects');
};

test('HLSL, by way of SPIR-V and a browser, shows what is baked', async ({ page }) => {
  test.setTimeout(1_800_000);
  const folder = mkdtempSync(join(tmpdir(), 'estela-hlsl-'));
  const tool = (name: string, args: readonly string[]): string => {
    const { status, stdout, stderr, error } = spawnSync(name, args, { encoding: 'utf8' });
    if (error) throw new Error(`${name} cannot be run: ${error.message}`);
    if (status !== 0) throw new Error(`${args.join(' ')}: ${stdout}${stderr}`);
    return stdout;
  };
  const some = made(HLSL);
  const given = inputs((width, parts) => `float${String(width)}(${parts})`);
  const drawings = some.map((one, i): Drawing => {
    const path = join(folder, `${String(i)}.frag`);
    writeFileSync(
      path,
      `${one.shader.code}\nfloat4 main(float4 pixel : SV_Position) : SV_Target {\n  float2 at = pixel.xy / ${String(SIDE)}.0;\n  ${one.frame.join('\n  ')}\n  return ${calls(one, given)};\n}\n`,
    );
    tool('glslangValidator', ['-D', '-V', '-S', 'frag', '-e', 'main', path, '-o', `${path}.spv`]);
    return {
      name: one.name,
      source: tool('spirv-cross', ['--es', '--version', '300', `${path}.spv`]).replaceAll('mediump', 'highp'),
      samplers: samplersOf(one.shader),
    };
  });
  await bare(page);
  const pictures = await page.evaluate(drawGl, { drawings, grid: gridOf(), side: SIDE });
  expect(faults(some, pictures)).toEqual([]);
});

test('WGSL, by WebGPU, shows what is baked', async ({ page }) => {
  test.setTimeout(1_800_000);
  const some = made(WGSL);
  const given = inputs((width, parts) => `vec${String(width)}<f32>(${parts})`);
  const drawings = some.map((one): Drawing => ({
    name: one.name,
    source: `${one.shader.code}
@vertex fn vs(@builtin(vertex_index) i: u32) -> @builtin(position) vec4<f32> {
  return vec4<f32>(select(-1.0, 3.0, i == 1u), select(-1.0, 3.0, i == 2u), 0.0, 1.0);
}
@fragment fn fs(@builtin(position) pixel: vec4<f32>) -> @location(0) vec4<f32> {
  let at = pixel.xy / ${String(SIDE)}.0;
  ${one.frame.join('\n  ')}
  return ${calls(one, given)};
}
`,
    samplers: samplersOf(one.shader),
  }));
  // Complete stages as packages have them are taken too.
  const stages = [...materials, ...hostile.map((text) => ({ text }))].map(({ text }) => {
    const files = [...packageCode(check(parse(text)), { targets: ['wgsl'] })];
    return files.find(([name]) => name.endsWith('.main.wgsl'))![1];
  });
  await bare(page);
  const messages = await page.evaluate(async (sources) => {
    const device = await (await navigator.gpu.requestAdapter())!.requestDevice();
    const infos = await Promise.all(sources.map((code) => device.createShaderModule({ code }).getCompilationInfo()));
    return infos.flatMap((info) => info.messages.map((m) => m.message));
  }, stages);
  expect(messages).toEqual([]);
  const pictures = await page.evaluate(drawGpu, { drawings, grid: gridOf(), side: SIDE });
  expect(faults(some, pictures)).toEqual([]);
});
