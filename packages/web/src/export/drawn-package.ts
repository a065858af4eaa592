import { ProgramBuild } from '../gl/program-build.ts';
import type { GlPixels } from '../material/shown.ts';

/** What is read of a manifest to draw the first shader of a package. */
export interface Manifest {
  readonly name: string;
  readonly loop: { readonly frames: number; readonly fps: number };
  readonly dials: Readonly<Record<string, { readonly default: number | readonly number[] }>>;
  readonly shaders: readonly [
    {
      readonly block: {
        readonly size: number;
        readonly fields: readonly { readonly name: string; readonly offset: number }[];
      };
      readonly images: readonly {
        readonly name: string;
        readonly source: string;
        readonly wrap: 'repeat' | 'mirror' | 'clamp';
        readonly filter: 'linear' | 'nearest';
        readonly encoding: 'color' | 'data' | 'normal';
      }[];
    },
  ];
}

/** The pixels of each image of a manifest's shader, in its order. */
export type ShaderImages = readonly GlPixels[];

/** Draws a complete stage of a package at a moment: RGBA bytes, `side` pixels wide and high, rows from the top. */
export interface StageDrawing {
  readonly draw: (seconds: number) => Promise<Uint8Array>;
  readonly end: () => void;
}

/** The uniform block of a complete stage: dials as exported, then the time. */
function blockAt({ dials, shaders: [{ block }] }: Manifest, seconds: number): ArrayBuffer {
  const bytes = new ArrayBuffer(block.size);
  const floats = new Float32Array(bytes);
  for (const { name, offset } of block.fields) floats.set([dials[name]?.default ?? seconds].flat(), offset / 4);
  return bytes;
}

const VERTEX = `#version 300 es
out vec2 v_uv;
void main() {
  v_uv = vec2(gl_VertexID == 1 ? 2.0 : 0.0, gl_VertexID == 2 ? 2.0 : 0.0);
  gl_Position = vec4(v_uv * 2.0 - 1.0, 0.0, 1.0);
}`;

/** By WebGL 2. Rows are read from below, so that v, which runs down, runs with them. Throws what the driver says. */
export function drawGlsl(fragment: string, manifest: Manifest, images: ShaderImages, side: number): StageDrawing {
  const canvas = document.createElement('canvas');
  canvas.width = canvas.height = side;
  const gl = canvas.getContext('webgl2', { antialias: false, premultipliedAlpha: false });
  if (!gl) throw new Error('This browser has no WebGL 2.');
  const program = new ProgramBuild(gl, { vertex: VERTEX, fragment }).finish();
  if ('log' in program) throw new Error(program.log);
  gl.useProgram(program);
  gl.bindBuffer(gl.UNIFORM_BUFFER, gl.createBuffer());
  const block = gl.getUniformBlockIndex(program, `${manifest.name}_Block`);
  gl.uniformBlockBinding(program, block, 0);
  const floats = gl.getExtension('OES_texture_float_linear') !== null;
  manifest.shaders[0].images.forEach(({ name, wrap, filter, encoding }, unit) => {
    const { width, height, data } = images[unit]!;
    gl.activeTexture(gl.TEXTURE0 + unit);
    gl.bindTexture(gl.TEXTURE_2D, gl.createTexture());
    if (data instanceof Float32Array)
      gl.texImage2D(gl.TEXTURE_2D, 0, floats ? gl.RGBA32F : gl.RGBA16F, width, height, 0, gl.RGBA, gl.FLOAT, data);
    else {
      const format = encoding === 'color' ? gl.SRGB8_ALPHA8 : gl.RGBA8;
      gl.texImage2D(gl.TEXTURE_2D, 0, format, width, height, 0, gl.RGBA, gl.UNSIGNED_BYTE, data);
    }
    const round = { repeat: gl.REPEAT, mirror: gl.MIRRORED_REPEAT, clamp: gl.CLAMP_TO_EDGE }[wrap];
    for (const axis of [gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T]) gl.texParameteri(gl.TEXTURE_2D, axis, round);
    // A bake reads the image itself, whatever its size.
    for (const way of [gl.TEXTURE_MIN_FILTER, gl.TEXTURE_MAG_FILTER])
      gl.texParameteri(gl.TEXTURE_2D, way, filter === 'linear' ? gl.LINEAR : gl.NEAREST);
    gl.uniform1i(gl.getUniformLocation(program, name), unit);
  });
  gl.viewport(0, 0, side, side);
  return {
    draw(seconds) {
      gl.bufferData(gl.UNIFORM_BUFFER, blockAt(manifest, seconds), gl.DYNAMIC_DRAW);
      gl.bindBufferBase(gl.UNIFORM_BUFFER, 0, gl.getParameter(gl.UNIFORM_BUFFER_BINDING) as WebGLBuffer);
      gl.drawArrays(gl.TRIANGLES, 0, 3);
      const bytes = new Uint8Array(side * side * 4);
      gl.readPixels(0, 0, side, side, gl.RGBA, gl.UNSIGNED_BYTE, bytes);
      return Promise.resolve(bytes);
    },
    end() {
      gl.getExtension('WEBGL_lose_context')?.loseContext();
    },
  };
}

// Numbers of the standard (WebGPU, 6.1.2 and 5.1.1), whose names TypeScript's own types leave out.
const TEXTURE = { COPY_SRC: 1, COPY_DST: 2, TEXTURE_BINDING: 4, RENDER_ATTACHMENT: 16 } as const;
const BUFFER = { MAP_READ: 1, COPY_DST: 8, UNIFORM: 64 } as const;

/** By WebGPU; undefined where the browser has none. Throws what the driver says. */
export async function drawWgsl(
  code: string,
  manifest: Manifest,
  images: ShaderImages,
  side: number,
): Promise<StageDrawing | undefined> {
  const gpu = (navigator as { readonly gpu?: GPU }).gpu;
  const adapter = await gpu?.requestAdapter();
  if (!adapter) return undefined;
  const wide = adapter.features.has('float32-filterable');
  const device = await adapter.requestDevice({ requiredFeatures: wide ? ['float32-filterable'] : [] });
  device.pushErrorScope('validation');
  const module = device.createShaderModule({ code });
  const pipeline = device.createRenderPipeline({
    layout: 'auto',
    vertex: { module, entryPoint: 'vs' },
    fragment: { module, entryPoint: 'fs', targets: [{ format: 'rgba8unorm' }] },
  });
  const [{ block, images: slots }] = manifest.shaders;
  const uniforms = device.createBuffer({ size: block.size, usage: BUFFER.UNIFORM | BUFFER.COPY_DST });
  const entries: GPUBindGroupEntry[] = [{ binding: 0, resource: { buffer: uniforms } }];
  slots.forEach(({ wrap, filter, encoding }, i) => {
    const { width, height, data } = images[i]!;
    const floats = data instanceof Float32Array;
    if (floats && !wide) throw new Error('This graphics card cannot filter 32-bit textures.');
    const format = floats ? 'rgba32float' : encoding === 'color' ? 'rgba8unorm-srgb' : 'rgba8unorm';
    const usage = TEXTURE.TEXTURE_BINDING | TEXTURE.COPY_DST;
    const texture = device.createTexture({ size: [width, height], format, usage });
    device.queue.writeTexture({ texture }, data, { bytesPerRow: width * (floats ? 16 : 4) }, [width, height]);
    const round = ({ repeat: 'repeat', mirror: 'mirror-repeat', clamp: 'clamp-to-edge' } as const)[wrap];
    const sampler = device.createSampler({
      addressModeU: round,
      addressModeV: round,
      magFilter: filter,
      minFilter: filter,
    });
    entries.push({ binding: 2 * i + 1, resource: texture.createView() }, { binding: 2 * i + 2, resource: sampler });
  });
  const group = device.createBindGroup({ layout: pipeline.getBindGroupLayout(0), entries });
  const error = await device.popErrorScope();
  if (error) throw new Error(error.message);
  const target = device.createTexture({
    size: [side, side],
    format: 'rgba8unorm',
    usage: TEXTURE.RENDER_ATTACHMENT | TEXTURE.COPY_SRC,
  });
  const row = Math.ceil((side * 4) / 256) * 256;
  const copy = device.createBuffer({ size: row * side, usage: BUFFER.COPY_DST | BUFFER.MAP_READ });
  return {
    async draw(seconds) {
      device.queue.writeBuffer(uniforms, 0, blockAt(manifest, seconds));
      const encoder = device.createCommandEncoder();
      const pass = encoder.beginRenderPass({
        colorAttachments: [{ view: target.createView(), loadOp: 'clear', storeOp: 'store' }],
      });
      pass.setPipeline(pipeline);
      pass.setBindGroup(0, group);
      pass.draw(3);
      pass.end();
      encoder.copyTextureToBuffer({ texture: target }, { buffer: copy, bytesPerRow: row }, [side, side]);
      device.queue.submit([encoder.finish()]);
      await copy.mapAsync(BUFFER.MAP_READ);
      const rows = new Uint8Array(copy.getMappedRange());
      const bytes = new Uint8Array(side * side * 4);
      for (let y = 0; y < side; y++) bytes.set(rows.subarray(y * row, y * row + side * 4), y * side * 4);
      copy.unmap();
      return bytes;
    },
    end() {
      device.destroy();
    },
  };
}
