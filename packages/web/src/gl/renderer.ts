import { colorOfHex, type Surface } from '@estela/core';
import { tokens } from '../app/tokens.ts';
import { Build } from './build.ts';
import type { MaterialProgram, Moment } from './material-program.ts';
import type { GpuMesh } from './meshes.ts';
import { setLight, type Scene } from './lighting.ts';
import { Backdrop } from './backdrop.ts';
import { Picture } from './picture.ts';
import { Places } from './places.ts';
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
  /** Metres to the nearest and the farthest that is seen. */
  readonly near: number;
  readonly far: number;
}

const coded = (hex: string): [number, number, number] => [1, 3, 5].map((i) => parseInt(hex.slice(i, i + 2), 16) / 255) as [number, number, number];

/** Texture units past those of a material's own images. */
const BEHIND_UNIT = 16;

/** Draws materials into a canvas. Colours are mixed in linear light and shown in sRGB. */
export class Renderer {
  readonly #empty: WebGLVertexArrayObject;
  readonly #behind: Picture;
  readonly #picture: Picture;
  readonly #backdrop: Backdrop;
  #copy: Places | undefined;

  constructor(readonly gl: WebGL2RenderingContext) {
    this.#empty = gl.createVertexArray();
    this.#behind = new Picture(gl);
    this.#picture = new Picture(gl);
    this.#backdrop = new Backdrop(gl);
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

  /** Draws a mesh as a camera sees it: what stands behind it first, then the surface over and through that. */
  drawMesh(
    program: MaterialProgram,
    moment: Moment,
    textures: Textures,
    mesh: GpuMesh,
    view: CameraView,
    surface: Surface,
    scene: Scene,
    width: number,
    height: number,
  ): void {
    const { gl } = this;
    // Only a surface that looks at what is behind it needs that apart.
    const apart = program.looksBehind;
    (apart ? this.#behind : this.#picture).bind(width, height);
    const [r, g, b] = colorOfHex(tokens.pit);
    gl.clearColor(r, g, b, 1);
    gl.depthMask(true);
    gl.clear(gl.COLOR_BUFFER_BIT | gl.DEPTH_BUFFER_BIT);
    gl.disable(gl.BLEND);
    gl.enable(gl.DEPTH_TEST);
    this.#backdrop.draw(scene, view);
    if (apart) this.#behind.copyTo(this.#picture, width, height);
    const seeThrough = surface.mode === 'blend' || surface.mode === 'add';
    // A refracting surface paints what is behind it itself, and hides its own far side.
    const refracts = program.refracts;
    gl.enable(gl.DEPTH_TEST);
    gl.depthMask(!seeThrough || refracts);
    if (seeThrough && !refracts) gl.enable(gl.BLEND);
    else gl.disable(gl.BLEND);
    gl.blendFunc(gl.ONE, gl.ONE_MINUS_SRC_ALPHA);
    program.use(moment, textures);
    gl.uniformMatrix4fv(program.place('stage_view'), false, view.matrix as number[]);
    gl.uniform3fv(program.place('stage_eye'), view.eye as number[]);
    gl.uniform2f(program.place('stage_size'), width, height);
    if (surface.lit) setLight(gl, (name) => program.place(name), scene.environment);
    if (apart) {
      this.#behind.offer(BEHIND_UNIT);
      gl.uniform1i(program.place('stage_behind'), BEHIND_UNIT);
      gl.uniform1i(program.place('stage_behind_depth'), BEHIND_UNIT + 1);
      gl.uniform2f(program.place('stage_planes'), view.near, view.far);
    }
    gl.bindVertexArray(mesh.array);
    gl.enable(gl.CULL_FACE);
    // Far sides first, so that a see-through near side lies over them.
    if (surface.twoSided) {
      gl.cullFace(gl.FRONT);
      gl.drawArrays(gl.TRIANGLES, 0, mesh.count);
    }
    gl.cullFace(gl.BACK);
    gl.drawArrays(gl.TRIANGLES, 0, mesh.count);
    gl.disable(gl.CULL_FACE);
    gl.depthMask(true);
    this.#show(width, height, surface.lit || scene.backdrop !== 'plain' ? 2 ** scene.exposure : 0);
  }

  #show(width: number, height: number, exposure: number): void {
    const { gl } = this;
    if (!this.#copy) {
      const made = new Build(gl, COPY).finish();
      if ('log' in made) return;
      this.#copy = new Places(gl, made);
    }
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
    gl.viewport(0, 0, width, height);
    gl.disable(gl.BLEND);
    gl.disable(gl.DEPTH_TEST);
    gl.useProgram(this.#copy.program);
    gl.uniform1f(this.#copy.of('stage_exposure'), exposure);
    gl.uniform1i(this.#copy.of('stage_picture'), 0);
    gl.activeTexture(gl.TEXTURE0);
    gl.bindTexture(gl.TEXTURE_2D, this.#picture.color);
    gl.bindSampler(0, null);
    gl.bindVertexArray(this.#empty);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
  }
}
