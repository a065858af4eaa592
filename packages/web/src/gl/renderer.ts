import { colorOfHex } from '@estela/core';
import { tokens } from '../app/tokens.ts';
import { Build } from './build.ts';
import type { MaterialProgram, Moment } from './material-program.ts';
import type { GpuMesh, MeshName } from './meshes.ts';
import { COPY } from './surface-shader.ts';
import type { Textures } from './textures.ts';

/** The UV square as it lies on the canvas, in pixels from the top left; `repeat` tiles fit along its sides. */
export interface FlatView {
  readonly x: number;
  readonly y: number;
  readonly size: number;
  readonly repeat: number;
}

/** A camera: column-major view-projection matrix, and where it stands. */
export interface CameraView {
  readonly matrix: readonly number[];
  readonly eye: readonly number[];
}

const coded = (hex: string): [number, number, number] => [1, 3, 5].map((i) => parseInt(hex.slice(i, i + 2), 16) / 255) as [number, number, number];

/** A picture with depth, drawn beside the canvas. */
interface Picture {
  readonly frame: WebGLFramebuffer;
  readonly color: WebGLTexture;
  readonly depth: WebGLRenderbuffer;
  readonly width: number;
  readonly height: number;
}

/** Draws materials into a canvas. Colours are mixed in linear light and shown in sRGB. */
export class Renderer {
  readonly #empty: WebGLVertexArrayObject;
  readonly #meshes = new Map<MeshName, GpuMesh>();
  #picture: Picture | undefined;
  #copy: WebGLProgram | undefined;

  constructor(readonly gl: WebGL2RenderingContext) {
    this.#empty = gl.createVertexArray();
  }

  /** Draws the UV square once or tiled, over small squares of grey where it can be seen through. */
  drawFlat(program: MaterialProgram, moment: Moment, textures: Textures, view: FlatView, width: number, height: number): void {
    const { gl } = this;
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
    gl.viewport(0, 0, width, height);
    gl.disable(gl.BLEND);
    gl.disable(gl.DEPTH_TEST);
    gl.clearColor(...coded(tokens.pit), 1);
    gl.clear(gl.COLOR_BUFFER_BIT);
    program.use(moment, textures);
    gl.uniform4f(program.place('stage_square'), view.x, view.y, view.size / view.repeat, view.repeat);
    gl.uniform2f(program.place('stage_size'), width, height);
    gl.bindVertexArray(this.#empty);
    gl.drawArraysInstanced(gl.TRIANGLE_STRIP, 0, 4, view.repeat * view.repeat);
  }

  /** Draws a mesh as a camera sees it. */
  drawMesh(
    program: MaterialProgram,
    moment: Moment,
    textures: Textures,
    mesh: GpuMesh,
    view: CameraView,
    surface: { mode: string; twoSided: boolean },
    width: number,
    height: number,
  ): void {
    const { gl } = this;
    gl.bindFramebuffer(gl.FRAMEBUFFER, this.#target(width, height).frame);
    gl.viewport(0, 0, width, height);
    const [r, g, b] = colorOfHex(tokens.pit);
    gl.clearColor(r, g, b, 1);
    gl.clear(gl.COLOR_BUFFER_BIT | gl.DEPTH_BUFFER_BIT);
    const seeThrough = surface.mode === 'blend' || surface.mode === 'add';
    gl.enable(gl.DEPTH_TEST);
    gl.depthMask(!seeThrough);
    if (seeThrough) gl.enable(gl.BLEND);
    else gl.disable(gl.BLEND);
    gl.blendFunc(gl.ONE, gl.ONE_MINUS_SRC_ALPHA);
    program.use(moment, textures);
    gl.uniformMatrix4fv(program.place('stage_view'), false, view.matrix as number[]);
    gl.uniform3fv(program.place('stage_eye'), view.eye as number[]);
    gl.uniform2f(program.place('stage_size'), width, height);
    gl.bindVertexArray(mesh.array);
    gl.enable(gl.CULL_FACE);
    // Far sides first, so that a see-through near side lies over them.
    if (surface.twoSided) {
      gl.cullFace(gl.FRONT);
      gl.drawElements(gl.TRIANGLES, mesh.count, gl.UNSIGNED_INT, 0);
    }
    gl.cullFace(gl.BACK);
    gl.drawElements(gl.TRIANGLES, mesh.count, gl.UNSIGNED_INT, 0);
    gl.disable(gl.CULL_FACE);
    gl.depthMask(true);
    this.#show(width, height);
  }

  async mesh(name: MeshName): Promise<GpuMesh> {
    const { uploadMesh } = await import('./meshes.ts');
    const known = this.#meshes.get(name);
    if (known) return known;
    const mesh = uploadMesh(this.gl, name);
    this.#meshes.set(name, mesh);
    return mesh;
  }

  /** A picture in linear light beside the canvas; sRGB storage keeps its dark steps fine. */
  #target(width: number, height: number): Picture {
    const { gl } = this;
    if (this.#picture?.width === width && this.#picture.height === height) return this.#picture;
    const { frame = gl.createFramebuffer(), color = gl.createTexture(), depth = gl.createRenderbuffer() } = this.#picture ?? {};
    gl.bindTexture(gl.TEXTURE_2D, color);
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.SRGB8_ALPHA8, width, height, 0, gl.RGBA, gl.UNSIGNED_BYTE, null);
    // A texture without mipmaps can only be read with a filter that wants none.
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
    gl.bindRenderbuffer(gl.RENDERBUFFER, depth);
    gl.renderbufferStorage(gl.RENDERBUFFER, gl.DEPTH_COMPONENT24, width, height);
    gl.bindFramebuffer(gl.FRAMEBUFFER, frame);
    gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, color, 0);
    gl.framebufferRenderbuffer(gl.FRAMEBUFFER, gl.DEPTH_ATTACHMENT, gl.RENDERBUFFER, depth);
    this.#picture = { frame, color, depth, width, height };
    return this.#picture;
  }

  #show(width: number, height: number): void {
    const { gl } = this;
    if (!this.#copy) {
      const made = new Build(gl, COPY).finish();
      if ('log' in made) return;
      this.#copy = made;
    }
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
    gl.viewport(0, 0, width, height);
    gl.disable(gl.BLEND);
    gl.disable(gl.DEPTH_TEST);
    gl.useProgram(this.#copy);
    gl.activeTexture(gl.TEXTURE0);
    gl.bindTexture(gl.TEXTURE_2D, this.#picture?.color ?? null);
    gl.bindSampler(0, null);
    gl.bindVertexArray(this.#empty);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
  }
}
